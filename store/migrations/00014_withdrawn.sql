-- +goose Up
-- A response that was withdrawn stays, but counts for nothing: its places are given back,
-- and it is shown only where that is asked for.
alter table responses add column withdrawn_at timestamptz;
alter table responses add column withdrawn_by bigint references members on delete set null;
alter table responses add column takes_before jsonb; -- the places that it had
create index responses_withdrawn on responses (form_id, withdrawn_at) where withdrawn_at is not null;

-- What was read in from elsewhere: a file, until it is taken, and by what its columns were
-- matched; then what became of it, so that it can be taken out again as one.
create table intakes (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    member_id bigint references members on delete set null,
    name text not null,
    data bytea, -- null once it is taken
    edition int not null,
    matching jsonb not null default '[]',
    made_at timestamptz not null,
    taken_at timestamptz,
    responses int not null default 0
);
create index on intakes (form_id, id desc);
alter table responses add column intake_id bigint references intakes on delete set null;
create index on responses (intake_id) where intake_id is not null;
create index on returns (response_id) where response_id is not null;

-- Responses are tallied by the statement, since many may come at once; those that were
-- withdrawn do not count. They are tallied by the day of their receipt (UTC), with a count
-- of changes, so that what was kept of a day is known to be stale.
drop trigger responses_are_tallied on responses;
drop function tally_response;
drop table response_tallies;
create table response_tallies (
    form_id bigint not null references forms on delete cascade,
    day date not null,
    part int not null,
    responses bigint not null,
    changes bigint not null,
    primary key (form_id, day, part)
) with (fillfactor = 50);
insert into response_tallies select form_id, (received_at at time zone 'UTC')::date, 0, count(*), count(*) from responses group by 1, 2;

-- What the responses of a day say all together, until one of them is changed or goes.
create table day_sums (
    form_id bigint not null references forms on delete cascade,
    day date not null,
    fingerprint text not null, -- how it was counted
    changes bigint not null,   -- up to which
    sums jsonb not null,
    primary key (form_id, day)
);

-- +goose StatementBegin
create function tally_responses(form bigint, received date, more bigint, touched bigint) returns void language plpgsql as $$
begin
    update response_tallies set responses = responses + more, changes = changes + touched
    where form_id = form and day = received and part = pg_backend_pid() % 8;
    if not found then -- of a form that is being deleted nothing is left to tell
        insert into response_tallies as t select id, received, pg_backend_pid() % 8, more, touched from forms where id = form
        on conflict (form_id, day, part) do update set responses = t.responses + more, changes = t.changes + touched;
    end if;
end $$;
-- +goose StatementEnd
-- +goose StatementBegin
create function tally_added() returns trigger language plpgsql as $$
begin
    perform tally_responses(form_id, day, n, n) from (
        select form_id, (received_at at time zone 'UTC')::date as day, count(*) as n
        from added where withdrawn_at is null group by 1, 2 order by 1, 2) a;
    return null;
end $$;
-- +goose StatementEnd
-- +goose StatementBegin
create function tally_gone() returns trigger language plpgsql as $$
begin
    perform tally_responses(form_id, day, -n, n) from (
        select form_id, (received_at at time zone 'UTC')::date as day, count(*) as n
        from gone where withdrawn_at is null group by 1, 2 order by 1, 2) g;
    delete from day_sums s using gone g where s.form_id = g.form_id and s.day = (g.received_at at time zone 'UTC')::date;
    return null;
end $$;
-- +goose StatementEnd
-- +goose StatementBegin
create function tally_changed() returns trigger language plpgsql as $$
begin
    perform tally_responses(new.form_id, (new.received_at at time zone 'UTC')::date,
        (new.withdrawn_at is null)::int - (old.withdrawn_at is null)::int, 1);
    delete from day_sums where form_id = new.form_id and day = (new.received_at at time zone 'UTC')::date;
    return null;
end $$;
-- +goose StatementEnd
create trigger responses_are_tallied after insert on responses referencing new table as added
    for each statement execute function tally_added();
create trigger gone_responses_are_tallied after delete on responses referencing old table as gone
    for each statement execute function tally_gone();
create trigger changed_responses_are_tallied after update of answers, withdrawn_at, link_id on responses for each row
    when ((old.answers, old.withdrawn_at, old.link_id) is distinct from (new.answers, new.withdrawn_at, new.link_id))
    execute function tally_changed();

-- So that what is new is known to be nowhere yet.
analyze responses, response_tallies;

-- +goose Down
drop trigger changed_responses_are_tallied on responses;
drop trigger gone_responses_are_tallied on responses;
drop trigger responses_are_tallied on responses;
drop function tally_changed;
drop function tally_gone;
drop function tally_added;
drop function tally_responses;
drop table day_sums;
drop table response_tallies;
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
    if not found then
        insert into response_tallies as t select id, pg_backend_pid() % 8, more from forms where id = form
        on conflict (form_id, part) do update set responses = t.responses + more;
    end if;
    return null;
end $$;
-- +goose StatementEnd
create trigger responses_are_tallied after insert or delete on responses for each row execute function tally_response();
drop index returns_response_id_idx;
alter table responses drop column intake_id;
drop table intakes;
drop index responses_withdrawn;
alter table responses drop column takes_before;
alter table responses drop column withdrawn_by;
alter table responses drop column withdrawn_at;
