-- +goose Up
-- What another program is told stands in the outbox too: its address in the place of a
-- recipient, what happened in that of a subject, the answers in that of a text.
alter table outbox add column kind text not null default 'letter' check (kind in ('letter', 'hook'));
alter table outbox add column asked text not null default ''; -- the last request, as it went
alter table outbox add column reply text not null default ''; -- and what was answered

-- By what a program knows that it is Lazo who tells it; the one before counts for a day.
create table hook_secrets (
    form_id bigint not null references forms on delete cascade,
    hook text not null,
    secret bytea not null,
    before bytea,
    made_at timestamptz not null,
    primary key (form_id, hook)
);

-- +goose Down
drop table hook_secrets;
delete from outbox where kind = 'hook';
alter table outbox drop column kind, drop column asked, drop column reply;
