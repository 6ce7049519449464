-- +goose Up
-- A response that waits for its address to be confirmed: until when. What is not confirmed
-- by then is deleted.
alter table responses add column confirm_by timestamptz;
alter table responses add column confirmed_at timestamptz;
create index responses_unconfirmed on responses (confirm_by) where confirm_by is not null;

-- A private address that a letter gave stays when another is made on the page.
alter table returns add column by_letter boolean not null default false;

-- +goose Down
alter table returns drop column by_letter;
alter table responses drop column confirm_by, drop column confirmed_at;
