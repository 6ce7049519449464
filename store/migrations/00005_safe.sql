-- +goose Up
-- Failed sign-ins are counted with the other limits.
drop table sign_in_attempts;

-- The addresses of forms that were deleted. Their links are still about, so no other
-- workspace is given one.
create table retired_addresses (
    address text primary key,
    workspace_id bigint not null references workspaces on delete cascade
);

-- Sessions are kept under a hash of their token from here on.
delete from sessions;

-- +goose Down
drop table retired_addresses;
create table sign_in_attempts (
    key text not null,
    at timestamptz not null default now()
);
create index on sign_in_attempts (key, at);
