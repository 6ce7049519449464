-- +goose Up
-- When a second factor goes, as its owner asked by mail: after a while in which they are
-- told, and can keep it.
alter table accounts add column factor_off_at timestamptz;
alter table tokens drop constraint tokens_kind_check;
alter table tokens add constraint tokens_kind_check check (kind in ('first', 'invitation', 'reset', 'address', 'factor'));

-- For how many days e-mails that have gone are kept; null for as long as their responses.
alter table workspaces add column emails_days int check (emails_days between 30 and 3650);

-- What is written, and taken back, to see whether there is room.
create table pulses (data bytea not null);
alter table pulses alter column data set storage external; -- so that it takes the room that it has

-- +goose Down
drop table pulses;
alter table workspaces drop column emails_days;
delete from tokens where kind = 'factor';
alter table tokens drop constraint tokens_kind_check;
alter table tokens add constraint tokens_kind_check check (kind in ('first', 'invitation', 'reset', 'address'));
alter table accounts drop column factor_off_at;
