-- A key ends with the account that made it; keys of before, and those of a start, have no maker.
alter table api_key add column made_by text not null default '';
