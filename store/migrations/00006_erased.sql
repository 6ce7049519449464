-- +goose Up
-- Fillings whose response was erased, so that a page that is still open does not
-- bring it back. Nothing is kept of what was in it.
create table if not exists erased_fillings (
    filling uuid primary key,
    erased_at timestamptz not null default now()
);

-- +goose Down
drop table erased_fillings;
