-- +goose Up
-- A form that is taken offline takes nothing, by whatever way it is come to; its
-- message is read meanwhile.
alter table forms
    add column offline_since timestamptz,
    add column offline_message text not null default '';

-- The sites whose pictures a workspace's texts may show; pictures tell those sites
-- who looks at them.
alter table workspaces add column picture_sites jsonb not null default '[]';

-- When a picture was last looked for in the workspace's forms.
alter table pictures add column looked_for_at timestamptz;

-- How many bytes of files each form has, so that a quota costs no counting.
create table file_tallies (
    form_id bigint primary key references forms on delete cascade,
    bytes bigint not null
);
insert into file_tallies select form_id, sum(size) from uploads group by form_id;

-- +goose StatementBegin
create function tally_files() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' then
        update file_tallies set bytes = bytes - old.size where form_id = old.form_id and old.size > 0;
    else
        insert into file_tallies values (new.form_id, new.size - old.size)
            on conflict (form_id) do update set bytes = file_tallies.bytes + excluded.bytes;
    end if;
    return null;
end $$;
-- +goose StatementEnd
create trigger tally_files after update of size or delete on uploads for each row execute function tally_files();

-- +goose Down
drop trigger tally_files on uploads;
drop function tally_files;
drop table file_tallies;
alter table pictures drop column looked_for_at;
alter table workspaces drop column picture_sites;
alter table forms drop column offline_message, drop column offline_since;
