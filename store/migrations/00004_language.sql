-- +goose Up
-- The language that a response was given in, "" for the form's own.
alter table responses add column language text not null default '';

-- Counts of the last minutes need not outlive a crash, and so cost no flush.
alter table public_counts set unlogged;

-- +goose Down
alter table public_counts set logged;
alter table responses drop column language;
