-- +goose Up
-- Sessions that were ended, so that a request which was still under way then does not
-- bring them back. They are swept once they would have expired.
create table ended_sessions (
    token text primary key,
    ended_at timestamptz not null default now()
);

-- +goose Down
drop table ended_sessions;
