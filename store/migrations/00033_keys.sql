-- +goose NO TRANSACTION
-- +goose Up
-- Indexes for what a table that grows refers to, so that a row which is deleted there is
-- not looked for in all of it. They are made beside people who work.
create index concurrently if not exists responses_workspace on responses (workspace_id);
create index concurrently if not exists responses_taken_by on responses (taken_by) where taken_by is not null;
create index concurrently if not exists responses_withdrawn_by on responses (withdrawn_by) where withdrawn_by is not null;
create index concurrently if not exists response_versions_by on response_versions (changed_by) where changed_by is not null;
create index concurrently if not exists edits_member on edits (member_id);
create index concurrently if not exists draft_steps_member on draft_steps (member_id);
create index concurrently if not exists returns_form on returns (form_id);
create index concurrently if not exists sign_ins_member on sign_ins (member_id);
create index concurrently if not exists rehearsals_workspace on rehearsals (workspace_id);
create index concurrently if not exists links_workspace on links (workspace_id);
create index concurrently if not exists views_owner on views (owner_id);
create index concurrently if not exists bulk_changes_member on bulk_changes (member_id);
create index concurrently if not exists outbox_ended on outbox (ended_at) where ended_at is not null;

-- +goose Down
drop index concurrently if exists outbox_ended;
drop index concurrently if exists bulk_changes_member;
drop index concurrently if exists views_owner;
drop index concurrently if exists links_workspace;
drop index concurrently if exists rehearsals_workspace;
drop index concurrently if exists sign_ins_member;
drop index concurrently if exists returns_form;
drop index concurrently if exists draft_steps_member;
drop index concurrently if exists edits_member;
drop index concurrently if exists response_versions_by;
drop index concurrently if exists responses_withdrawn_by;
drop index concurrently if exists responses_taken_by;
drop index concurrently if exists responses_workspace;
