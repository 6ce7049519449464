-- +goose Up
-- Who did what, and from where. It names people and forms in words, since it outlives them;
-- no answer stands in it.
create table trail (
    id bigint generated always as identity primary key,
    workspace_id bigint,             -- null for what is of an account alone
    account_id bigint,               -- null for what nobody signed in did
    who text not null,               -- their name and address then
    act text not null,               -- such as export; see the table of acts
    form_id bigint,
    form text not null default '',   -- its title then
    response text not null default '', -- its id
    detail text not null default '',
    visitor text not null,
    request text not null default '',
    at timestamptz not null default now()
);
create index on trail (workspace_id, id desc);
create index on trail (account_id, id desc);
create index on trail (at);
alter table workspaces add column trail_days int not null default 365 check (trail_days between 30 and 3650);

-- What stands there stays: it can be added to, and what is older than is kept goes.
-- +goose StatementBegin
create function lazo_trail_stays() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' and old.at < now() - make_interval(days => coalesce(
        (select trail_days from workspaces w where w.id = old.workspace_id), 365)) then
        return old;
    end if;
    raise exception 'the trail is not changed';
end $$;
-- +goose StatementEnd
create trigger trail_stays before update or delete on trail for each row execute function lazo_trail_stays();

-- +goose Down
drop table trail;
drop function lazo_trail_stays;
alter table workspaces drop column trail_days;
