-- +goose Up
-- People sign in with an account; they are members of workspaces with it. The version
-- before this one knows members alone, who keep a copy of what it reads of their account.
create table accounts (
    id bigint generated always as identity primary key,
    email text not null unique,
    name text not null,
    password_hash text not null,
    password_at timestamptz not null default now(), -- when it was set
    totp_secret bytea,                  -- of the second factor; null without one
    totp_step bigint not null default 0, -- the last period whose code was used; one code is good once
    totp_asked bytea,                   -- a secret that is being set up
    recovery jsonb not null default '[]', -- hashes of the codes that stand in for it, each good once
    made_at timestamptz not null default now()
);
insert into accounts (email, name, password_hash) select email, name, password_hash from members;

alter table members add column account_id bigint references accounts on delete cascade;
update members m set account_id = a.id from accounts a where a.email = m.email;
alter table members add column role text not null default 'owner' check (role in ('owner', 'designer', 'reader'));
alter table members add column may_export boolean not null default false; -- of a reader
alter table members add column joined_at timestamptz not null default now();
alter table members add column left_at timestamptz;
alter table members drop constraint members_email_key;
create unique index members_once on members (workspace_id, account_id) where left_at is null;
create index on members (account_id);

-- The forms whose responses a reader reads.
create table member_forms (
    member_id bigint not null references members on delete cascade,
    form_id bigint not null references forms on delete cascade,
    primary key (member_id, form_id)
);
create index on member_forms (form_id);

-- +goose StatementBegin
create function lazo_member_of_account() returns trigger language plpgsql as $$
begin
    if new.account_id is null then
        insert into accounts (email, name, password_hash) values (new.email, new.name, new.password_hash)
            on conflict (email) do update set email = excluded.email returning id into new.account_id;
    end if;
    return new;
end $$;
create function lazo_account_of_members() returns trigger language plpgsql as $$
begin
    update members set email = new.email, name = new.name, password_hash = new.password_hash where account_id = new.id;
    return new;
end $$;
-- +goose StatementEnd
create trigger member_of_account before insert on members for each row execute function lazo_member_of_account();
create trigger account_of_members after update of email, name, password_hash on accounts
    for each row execute function lazo_account_of_members();

-- Where somebody is signed in. Whoever ends one ends what its cookie may.
create table sign_ins (
    id uuid primary key default gen_random_uuid(),
    account_id bigint not null references accounts on delete cascade,
    member_id bigint references members on delete set null, -- of the workspace at hand
    made_at timestamptz not null default now(),
    seen_at timestamptz not null default now(),
    proven_at timestamptz not null default now(), -- when the password was given last
    visitor text not null,
    agent text not null
);
create index on sign_ins (account_id, seen_at desc);

create table invitations (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    email text not null,
    role text not null check (role in ('owner', 'designer', 'reader')),
    may_export boolean not null,
    forms jsonb not null default '[]',
    made_by bigint references members on delete set null,
    made_at timestamptz not null default now(),
    expires_at timestamptz not null
);
create unique index on invitations (workspace_id, email);

-- Addresses that are good once: under a hash, so that who reads this can't use them.
create table tokens (
    hash bytea primary key,
    kind text not null check (kind in ('first', 'invitation', 'reset')),
    account_id bigint references accounts on delete cascade,
    invitation_id bigint references invitations on delete cascade,
    expires_at timestamptz not null
);
create index on tokens (account_id);
create index on tokens (invitation_id);

-- What is written to an account is of no workspace; about says what a letter's address is for.
alter table outbox alter column workspace_id drop not null;
alter table outbox add column about text not null default '';

-- +goose Down
delete from outbox where workspace_id is null;
alter table outbox drop column about, alter column workspace_id set not null;
drop table tokens, invitations, sign_ins, member_forms;
drop trigger account_of_members on accounts;
drop trigger member_of_account on members;
drop function lazo_account_of_members, lazo_member_of_account;
delete from members m where left_at is not null or exists (select 1 from members o where o.email = m.email and o.id < m.id);
drop index members_once;
alter table members drop column account_id, drop column role, drop column may_export, drop column joined_at, drop column left_at,
    add constraint members_email_key unique (email);
drop table accounts;
