-- What the first batch of an applier is at: whoever finds this mark follows one that ended at it.
alter table public.graph_head add column trying_block bigint;
alter table public.graph_head add column trying_position int;
alter table public.graph_head add column tries int not null default 0;
