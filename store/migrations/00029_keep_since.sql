-- +goose Up
-- Since when responses are kept for the time that is set: within a day of a change nothing
-- is deleted, so that a mistake can be mended.
alter table forms add column keep_since timestamptz;

-- +goose Down
alter table forms drop column keep_since;
