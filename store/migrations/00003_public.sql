-- +goose Up
-- Files that respondents send, in pieces, so that they are streamed and every
-- copy of the application has them. Those of no response are swept.
create table uploads (
    id uuid primary key default gen_random_uuid(),
    form_id bigint not null references forms on delete cascade,
    filling uuid not null,
    item text not null,
    name text not null,
    media_type text not null,
    size bigint not null default 0,
    response_id uuid references responses on delete cascade,
    made_at timestamptz not null default now()
);
create index on uploads (form_id, filling);
create index on uploads (response_id);
create index on uploads (made_at) where response_id is null;

create table upload_pieces (
    upload_id uuid not null references uploads on delete cascade,
    number int not null,
    data bytea not null,
    primary key (upload_id, number)
);

-- Public addresses with preset parameters, a name and a count of visits.
create table links (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    code text not null unique,
    name text not null,
    parameters jsonb not null default '{}',
    visits bigint not null default 0,
    made_at timestamptz not null default now()
);
create index on links (form_id);
alter table responses add column link_id bigint references links on delete set null;
create index on responses (link_id) where link_id is not null;

-- Every state that a response was in before a respondent or the workspace
-- changed it.
create table response_versions (
    response_id uuid not null references responses on delete cascade,
    number int not null,
    edition int not null,
    answers jsonb not null,
    kept_at timestamptz not null default now(),
    primary key (response_id, number)
);
alter table responses add column changed_at timestamptz;

-- A private address by which a respondent comes back: to a filling that was left
-- (fields), or to a response that may be changed. Only a hash of its secret is kept.
create table returns (
    id uuid primary key default gen_random_uuid(),
    secret_hash bytea not null unique,
    form_id bigint not null references forms on delete cascade,
    response_id uuid references responses on delete cascade,
    ticket text not null,
    page text not null default '',
    fields jsonb not null default '{}',
    expires_at timestamptz not null,
    made_at timestamptz not null default now()
);
create index on returns (expires_at);

-- What one address does on the public side, by the minute, for its limits.
create table public_counts (
    key text not null,
    minute timestamptz not null,
    n int not null,
    primary key (key, minute)
);

-- +goose Down
drop table public_counts, returns, response_versions;
alter table responses drop column changed_at, drop column link_id;
drop table links, upload_pieces, uploads;
