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
-- none is given twice. They are visited in one order, that of the keys of jsonb (by length,
-- then by bytes), so that two can't wait for each other.
-- +goose StatementBegin
create function take_places(form bigint, item text, choice text, more int, most int) returns void language plpgsql as $$
begin
    if more <= most or most is null then
        insert into places_taken as p (form_id, item, choice, taken) values (form, item, choice, more)
        on conflict on constraint places_taken_pkey do update set taken = p.taken + more where most is null or p.taken + more <= most;
    end if;
    if not found or more > most then
        raise exception using errcode = 'LZ001', message = 'no place is left for ' || item || '.' || choice;
    end if;
end $$;
-- +goose StatementEnd

-- Of a new response, which is the usual case, there is nothing to compare with.
-- +goose StatementBegin
create function places_of_new() returns trigger language plpgsql as $$
declare item text; choice text; take jsonb;
begin
    for item in select jsonb_object_keys(new.takes) loop
        for choice in select jsonb_object_keys(new.takes -> item) loop
            take := new.takes -> item -> choice;
            perform take_places(new.form_id, item, choice, (take ->> 0)::int, (take ->> 1)::int);
        end loop;
    end loop;
    return null;
end $$;
-- +goose StatementEnd

-- +goose StatementBegin
create function places_of_changed() returns trigger language plpgsql as $$
declare
    after jsonb := case when tg_op = 'DELETE' then null else new.takes end;
    t record;
begin
    for t in
        with b as (select i.key as item, c.key as choice, (c.value ->> 0)::int as n
                   from jsonb_each(coalesce(old.takes, '{}')) i, jsonb_each(i.value) c),
             a as (select i.key as item, c.key as choice, (c.value ->> 0)::int as n, (c.value ->> 1)::int as most
                   from jsonb_each(coalesce(after, '{}')) i, jsonb_each(i.value) c)
        select item, choice, coalesce(a.n, 0) - coalesce(b.n, 0) as more, a.most
        from a full join b using (item, choice) 
        order by octet_length(item), item collate "C", octet_length(choice), choice collate "C"
    loop
        if t.more < 0 then
            update places_taken set taken = greatest(0, taken + t.more)
            where form_id = old.form_id and item = t.item and choice = t.choice;
        elsif t.more > 0 then
            perform take_places(old.form_id, t.item, t.choice, t.more, t.most);
        end if;
    end loop;
    return null;
end $$;
-- +goose StatementEnd

create trigger places_are_taken after insert on responses for each row when (new.takes is not null) execute function places_of_new();
create trigger places_are_moved after update of takes on responses for each row
    when (old.takes is distinct from new.takes) execute function places_of_changed();
create trigger places_are_given_back after delete on responses for each row when (old.takes is not null) execute function places_of_changed();

-- +goose Down
drop trigger places_are_given_back on responses;
drop trigger places_are_moved on responses;
drop trigger places_are_taken on responses;
drop function places_of_changed;
drop function places_of_new;
drop function take_places;
drop table places_taken;
alter table responses drop column takes;
