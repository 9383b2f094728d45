-- Views of the graph that people saved under a name; a shared one is for all to use.
create table public.saved_view (
  id          bigint generated always as identity primary key,
  owner       text not null,
  name        text not null,
  shared      boolean not null,
  settings    text not null,
  default_for text[] not null,
  changed_at  timestamptz not null,
  unique (owner, name)
);
