-- +goose Up
-- How often each link was followed, by the day (UTC).
create table link_days (
	link_id bigint not null references links (id) on delete cascade,
	day date not null,
	visits integer not null,
	primary key (link_id, day)
);

-- +goose Down
drop table link_days;
