-- +goose Up
-- What members are written to about: new responses, once a day, and what could not be sent.
alter table members add column digest boolean not null default false;
alter table members add column digested_at timestamptz; -- up to when
alter table members add column told_failures boolean not null default false;
-- What is written to members is of no form.
alter table outbox alter column form_id drop not null;

-- +goose Down
delete from outbox where form_id is null;
alter table outbox alter column form_id set not null;
alter table members drop column digest, drop column digested_at, drop column told_failures;
