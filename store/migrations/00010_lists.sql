-- +goose Up
-- A list is a reference table of the workspace that choices are drawn from. Its key
-- stays; what it holds is in versions, of which the newest counts.
create table lists (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    key text not null,
    name text not null,
    version int not null default 1,
    updated_at timestamptz not null default now(),
    unique (workspace_id, key)
);

create table list_versions (
    list_id bigint not null references lists on delete cascade,
    number int not null,
    columns jsonb not null,
    entries jsonb not null,
    size int not null generated always as (jsonb_array_length(entries)) stored,
    says text not null, -- what was done, in words
    made_by bigint references members on delete set null,
    made_at timestamptz not null default now(),
    primary key (list_id, number)
);

-- What was read from a file or pasted, until it is taken or left.
create table list_proposals (
    id uuid primary key default gen_random_uuid(),
    list_id bigint not null references lists on delete cascade,
    base int not null,
    columns jsonb not null,
    entries jsonb not null,
    says text not null,
    made_at timestamptz not null default now()
);

-- What the picks from lists of the workspace read when the response was stored:
-- {"pier": {"h": "Heron pier"}}.
alter table responses add column labels jsonb;

-- +goose Down
alter table responses drop column labels;
drop table list_proposals;
drop table list_versions;
drop table lists;
