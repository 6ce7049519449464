-- +goose Up
-- Forms stand on shelves, by their names; those that are done with are set aside.
alter table forms add column shelf text not null default '';
alter table forms add column aside_since timestamptz;

-- +goose Down
alter table forms drop column aside_since;
alter table forms drop column shelf;
