-- +goose Up
-- Keys that sign what travels with a page, shared by all copies. The newest signs; older
-- ones are good for a time after. The version before this one knows the first alone.
create table keys (
    name text not null,
    made_at timestamptz not null default now(),
    value bytea not null,
    primary key (name, made_at)
);
insert into keys (name, value) select name, value from secrets;

-- +goose Down
drop table keys;
