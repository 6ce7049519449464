-- +goose Up
-- The language that a response was given in, "" for the form's own.
alter table responses add column language text not null default '';

-- +goose Down
alter table responses drop column language;
