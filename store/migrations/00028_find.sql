-- +goose Up
-- Texts as they are searched: as the language compares them, without accents, and letters
-- that have no plain one beneath by those that people type for them. expr.Searched is the same.
-- +goose StatementBegin
create function lazo_find(t text) returns text immutable strict parallel safe language sql as $$
    select case when t ~ '^[ -~]*$' then lower(t collate "C")
    else replace(replace(translate(regexp_replace(normalize(lazo_fold(t), NFD), U&'[\0300-\036f]', '', 'g'), 'øłđðħıŧ', 'olddhit'), 'æ', 'ae'), 'œ', 'oe') end
$$;
-- +goose StatementEnd

-- +goose Down
drop function lazo_find;
