-- +goose Up
-- What a workspace says of itself above its forms, in Markdown.
alter table workspaces add column note text not null default '';

-- +goose Down
alter table workspaces drop column note;
