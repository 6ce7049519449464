-- +goose Up
-- Which places a response takes: {"slot": {"sat_am": [1, 12]}}, how often each choice and
-- the most that all may take, null where the workspace goes beyond.
alter table responses add column takes jsonb;

create table places_taken (
    form_id bigint not null references forms on delete cascade,
    item text not null,
    choice text not null,
    taken int not null check (taken >= 0),
    primary key (form_id, item, choice)
);

-- Places are taken, moved and given back with the response, in its transaction, so that
-- none is given twice. They are visited in one order, so that two can't wait for each other.
-- +goose StatementBegin
create function tally_places() returns trigger language plpgsql as $$
declare
    before jsonb := case when tg_op = 'INSERT' then null else old.takes end;
    after jsonb := case when tg_op = 'DELETE' then null else new.takes end;
    form bigint := case when tg_op = 'DELETE' then old.form_id else new.form_id end;
    t record;
begin
    for t in
        with b as (select i.key as item, c.key as choice, (c.value ->> 0)::int as n
                   from jsonb_each(coalesce(before, '{}')) i, jsonb_each(i.value) c),
             a as (select i.key as item, c.key as choice, (c.value ->> 0)::int as n, (c.value ->> 1)::int as most
                   from jsonb_each(coalesce(after, '{}')) i, jsonb_each(i.value) c)
        select item, choice, coalesce(a.n, 0) - coalesce(b.n, 0) as more, a.most
        from a full join b using (item, choice) order by item collate "C", choice collate "C"
    loop
        if t.more < 0 then
            update places_taken set taken = greatest(0, taken + t.more) where form_id = form and item = t.item and choice = t.choice;
        elsif t.more > 0 then
            insert into places_taken (form_id, item, choice, taken)
            select form, t.item, t.choice, t.more where t.most is null or t.more <= t.most
            on conflict (form_id, item, choice) do update set taken = places_taken.taken + excluded.taken
            where t.most is null or places_taken.taken + excluded.taken <= t.most;
            if not found then
                raise exception using errcode = 'LZ001', message = 'no place is left for ' || t.item || '.' || t.choice;
            end if;
        end if;
    end loop;
    return null;
end $$;
-- +goose StatementEnd

create trigger places_are_taken after insert on responses for each row when (new.takes is not null) execute function tally_places();
create trigger places_are_moved after update of takes on responses for each row
    when (old.takes is distinct from new.takes) execute function tally_places();
create trigger places_are_given_back after delete on responses for each row when (old.takes is not null) execute function tally_places();

-- +goose Down
drop trigger places_are_given_back on responses;
drop trigger places_are_moved on responses;
drop trigger places_are_taken on responses;
drop function tally_places;
drop table places_taken;
alter table responses drop column takes;
