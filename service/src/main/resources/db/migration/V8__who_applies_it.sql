-- Whose mark it is: only a mark of another process means that this process ended.
alter table public.graph_head add column trying_by uuid;
alter table public.graph_head rename column tries to ends;
