-- +goose Up
-- How long a form's responses are kept: so many days after their receipt, or after a date
-- that was answered; null for as long as nobody deletes them.
alter table forms add column keep_days int check (keep_days between 1 and 36500);
alter table forms add column keep_from text not null default ''; -- the key of the date, '' for the receipt
alter table forms add column keep_told boolean not null default false; -- respondents are told
create index forms_kept on forms (id) where keep_days is not null;

-- +goose Down
alter table forms drop column keep_days, drop column keep_from, drop column keep_told;
