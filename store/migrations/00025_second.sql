-- +goose Up
-- A workspace can ask a second factor of everybody in it; an account can get another
-- e-mail address, which a letter to it proves.
alter table workspaces add column second_asked boolean not null default false;
alter table tokens add column email text not null default '';
alter table tokens drop constraint tokens_kind_check;
alter table tokens add constraint tokens_kind_check check (kind in ('first', 'invitation', 'reset', 'address'));

-- +goose Down
delete from tokens where kind = 'address';
alter table tokens drop constraint tokens_kind_check;
alter table tokens add constraint tokens_kind_check check (kind in ('first', 'invitation', 'reset'));
alter table tokens drop column email;
alter table workspaces drop column second_asked;
