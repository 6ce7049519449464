-- +goose Up
-- What is to go out of responses, and what became of it. It is written with what made it
-- necessary; what is erased sends nothing.
create table outbox (
    id bigint generated always as identity primary key,
    workspace_id bigint not null references workspaces on delete cascade,
    form_id bigint not null references forms on delete cascade,
    response_id uuid references responses on delete cascade,
    edition int not null,          -- the message is of
    message text not null,         -- its key
    name text not null,            -- as the workspace calls it
    recipient text not null,       -- an address
    answered boolean not null,     -- which is an answer, and so anybody's
    reply_to text not null,
    subject text not null,
    body text not null,            -- Markdown
    attach jsonb,                  -- what it carries
    language text not null,
    reason text not null,          -- in words
    timed boolean not null,        -- it has a moment of its own, at which it is judged again
    state text not null default 'waiting'
        check (state in ('waiting', 'held', 'sending', 'sent', 'failed', 'cancelled', 'dropped')),
    due_at timestamptz not null,
    made_at timestamptz not null,
    queued_at timestamptz,         -- when it was handed to a worker; null while it is not
    round int not null default 0,  -- how often it was
    attempts int not null default 0,
    answer text not null default '', -- what became of it last, in words
    ended_at timestamptz,
    message_id uuid not null default gen_random_uuid()
);
create index on outbox (form_id, id desc);
create index on outbox (workspace_id, id desc);
create index on outbox (response_id);
create index outbox_open on outbox (workspace_id, state) where state in ('waiting', 'held', 'sending', 'failed');
create index outbox_due on outbox (due_at) where state = 'waiting' and queued_at is null;
create index outbox_rate on outbox (form_id, queued_at) where queued_at is not null;

-- +goose Down
drop table outbox;
