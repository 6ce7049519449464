-- +goose Up
-- Responses that are handed out in a file which takes long to make: it is made beside what
-- people do, and kept for a day, in pieces, so that every copy of the application has it.
create table exports (
    id uuid primary key default gen_random_uuid(),
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    member_id bigint not null references members on delete cascade,
    name text not null,
    format text not null,
    responses bigint not null, -- how many there were to write
    written bigint not null default 0,
    size bigint not null default 0,
    began_at timestamptz not null,
    seen_at timestamptz not null, -- when it was last seen to go on
    done_at timestamptz,
    failed boolean not null default false
);
create index on exports (form_id, member_id);

create table export_pieces (
    export_id uuid not null references exports on delete cascade,
    number int not null,
    data bytea not null,
    primary key (export_id, number)
);

-- +goose Down
drop table export_pieces, exports;
