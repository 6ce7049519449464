-- +goose Up
create table workspaces (
    id bigint generated always as identity primary key,
    name text not null,
    created_at timestamptz not null default now()
);

create table members (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    email text not null unique,
    name text not null,
    password_hash text not null
);

-- One row a form. The draft is a form file; draft_version counts its edits, so
-- that an edit made on an older state is noticed.
create table forms (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    address text not null unique,
    title text not null,
    draft jsonb not null,
    draft_version bigint not null default 1,
    live_edition int,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now()
);
create index on forms (workspace_id);

-- Published states; never changed afterwards.
create table editions (
    form_id bigint not null references forms on delete cascade,
    number int not null,
    definition jsonb not null,
    draft_version bigint not null,
    published_by bigint references members on delete set null,
    published_at timestamptz not null default now(),
    primary key (form_id, number)
);

-- Every edit of a draft with the edit that takes it back. Undone ones stay
-- until another edit takes their place.
create table edits (
    form_id bigint not null references forms on delete cascade,
    number bigint not null,
    member_id bigint references members on delete set null,
    edit jsonb not null,
    inverse jsonb not null,
    undone boolean not null default false,
    made_at timestamptz not null default now(),
    primary key (form_id, number)
);

create table responses (
    id uuid primary key default gen_random_uuid(),
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    edition int not null,
    answers jsonb not null,
    parameters jsonb not null default '{}',
    received_at timestamptz not null,
    -- One filling of the form, so that sending twice stores once.
    filling uuid not null unique,
    foreign key (form_id, edition) references editions (form_id, number)
);
create index on responses (form_id, received_at desc);

create table sessions (
    token text primary key,
    data bytea not null,
    expiry timestamptz not null
);
create index on sessions (expiry);

create table sign_in_attempts (
    key text not null,
    at timestamptz not null default now()
);
create index on sign_in_attempts (key, at);

-- Secrets shared by all copies of the application.
create table secrets (
    name text primary key,
    value bytea not null
);

-- +goose Down
drop table secrets, sign_in_attempts, sessions, responses, edits, editions, forms, members, workspaces;
