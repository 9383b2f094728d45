-- Changes that are planned, what they were judged to do, and what their owners answered.

create table public.planned_change (
  id          text primary key,
  title       text not null,
  reason      text,
  author      text not null,
  planned_at  timestamptz,
  steps       text not null,        -- JSON: change, of, to
  state       text not null,        -- proposed, agreed, done, withdrawn
  made_by     text not null,
  made_at     timestamptz not null,
  changed_by  text not null,
  changed_at  timestamptz not null,
  done_at     timestamptz,
  judged_at   timestamptz,
  graph       bigint not null,      -- the graph change as of which it was judged last
  judged      bytea,                -- JSON: what it does, compressed
  first       bytea                 -- the same as it was judged when it was proposed
);
create index planned_change_state on public.planned_change (state, made_at desc);

create table public.planned_answer (
  change_id  text not null references public.planned_change (id) on delete cascade,
  owner      text not null,
  answer     text not null,         -- agrees, objects
  note       text,
  by         text not null,
  at         timestamptz not null,
  primary key (change_id, owner)
);
