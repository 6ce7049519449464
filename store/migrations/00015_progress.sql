-- +goose Up
-- How far people come in a form, by day and page: how many fillings came to a page for the
-- first time, and how many went on from it or were sent. Nothing tells whose they were.
create table progress (
    form_id bigint not null references forms on delete cascade,
    day date not null,
    page text not null,
    came int not null,
    went int not null,
    primary key (form_id, day, page)
);

-- +goose Down
drop table progress;
