-- +goose Up
-- What each version of a draft changed, so that an edit made on an older state
-- is let through where it meets nothing that changed since.
create table draft_steps (
    form_id bigint not null references forms on delete cascade,
    version bigint not null,
    member_id bigint references members on delete set null,
    touches text[] not null,
    made_at timestamptz not null default now(),
    primary key (form_id, version)
);

-- Who has a draft open, and what they have selected in it.
create table presences (
    form_id bigint not null references forms on delete cascade,
    member_id bigint not null references members on delete cascade,
    at text not null default '',
    seen_at timestamptz not null default now(),
    primary key (form_id, member_id)
);

-- Rehearsals kept under a name with the outcome that is expected of them.
create table rehearsals (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    name text not null,
    filling jsonb not null,
    expected jsonb not null,
    made_at timestamptz not null default now(),
    unique (form_id, name)
);

-- Sections kept for use in other forms of the workspace.
create table kept_sections (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    name text not null,
    definition jsonb not null,
    made_at timestamptz not null default now(),
    unique (workspace_id, name)
);

-- Pictures of notes and choices; public under their random ids.
create table pictures (
    id uuid primary key default gen_random_uuid(),
    workspace_id bigint not null references workspaces on delete cascade,
    media_type text not null,
    data bytea not null,
    made_at timestamptz not null default now()
);

-- +goose Down
drop table pictures, kept_sections, rehearsals, presences, draft_steps;
