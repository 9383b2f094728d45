-- When the newest change was made: a number alone would be the same in a database that was put back
-- to an older state and went on from there.
alter table public.graph_head add column changed_at timestamptz not null default now();
