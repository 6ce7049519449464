-- +goose Up
-- The filling that a way back leads to, by which it is found when that is erased.
alter table returns add column filling uuid;
update returns set filling = (ticket::json->>'n')::uuid where ticket::json->>'n' ~ '^[0-9a-f-]{36}$';
create index returns_filling on returns (filling);

-- +goose Down
alter table returns drop column filling;
