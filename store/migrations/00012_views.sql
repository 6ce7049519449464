-- +goose Up
-- A view is kept by one member for all (owner_id is null) or for oneself.
create table views (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    owner_id bigint references members on delete cascade,
    name text not null,
    definition jsonb not null,
    made_at timestamptz not null default now()
);
create unique index on views (form_id, coalesce(owner_id, 0), lower(name));

-- Pages of responses begin behind the last one of the page before.
create index responses_in_order on responses (form_id, received_at desc, id desc);
drop index responses_form_id_received_at_idx;

-- Who took a response down for someone, by telephone for instance; null for what a
-- respondent sent. Versions say who made the change that ended them, or null for the
-- respondent, and what of the checks was overridden in a change by the office.
alter table responses add column taken_by bigint references members on delete set null;
alter table responses add column overridden jsonb;
alter table response_versions add column changed_by bigint references members on delete set null;
alter table response_versions add column by_office boolean not null default false;

-- How many responses a form has, counted as they come and go, so that nobody counts rows
-- to tell. Several rows for each form, so that those who send at once seldom wait for each
-- other.
create table response_tallies (
    form_id bigint not null references forms on delete cascade,
    part int not null,
    responses bigint not null,
    primary key (form_id, part)
) with (fillfactor = 50);
insert into response_tallies select form_id, 0, count(*) from responses group by form_id;

-- +goose StatementBegin
create function tally_response() returns trigger language plpgsql as $$
declare
    more int := case when tg_op = 'INSERT' then 1 else -1 end;
    form bigint := case when tg_op = 'INSERT' then new.form_id else old.form_id end;
begin
    update response_tallies set responses = responses + more where form_id = form and part = pg_backend_pid() % 8;
    if not found then -- of a form that is being deleted nothing is left to tell
        insert into response_tallies as t select id, pg_backend_pid() % 8, more from forms where id = form
        on conflict (form_id, part) do update set responses = t.responses + more;
    end if;
    return null;
end $$;
-- +goose StatementEnd
create trigger responses_are_tallied after insert or delete on responses for each row execute function tally_response();

-- The last change that was made to many responses at once, to be taken back as one.
create table bulk_changes (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    member_id bigint not null references members on delete cascade,
    says text not null,
    made_at timestamptz not null default now(),
    changed jsonb not null
);
create index on bulk_changes (form_id, member_id, id desc);

-- +goose Down
drop table bulk_changes;
drop trigger responses_are_tallied on responses;
drop function tally_response;
drop table response_tallies;
alter table response_versions drop column by_office;
alter table response_versions drop column changed_by;
alter table responses drop column overridden;
alter table responses drop column taken_by;
create index on responses (form_id, received_at desc);
drop index responses_in_order;
drop table views;
