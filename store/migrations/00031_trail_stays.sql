-- +goose Up
-- Nor is the trail emptied at once.
-- +goose StatementBegin
create function lazo_trail_is_not_emptied() returns trigger language plpgsql as $$
begin
    raise exception 'the trail is not emptied';
end $$;
-- +goose StatementEnd
create trigger trail_is_not_emptied before truncate on trail for each statement execute function lazo_trail_is_not_emptied();

-- +goose Down
drop trigger trail_is_not_emptied on trail;
drop function lazo_trail_is_not_emptied;
