-- +goose Up
-- A change that comes with another address waits for that to be confirmed; this is the
-- version that it changed.
alter table responses add column confirm_from integer;

-- +goose Down
alter table responses drop column confirm_from;
