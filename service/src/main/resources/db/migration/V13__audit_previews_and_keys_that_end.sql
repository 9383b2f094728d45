-- Who did what, or was refused it. Rows are added and never changed; old ones go by the sweep alone.
create table public.audit_entry (
  id       bigint generated always as identity primary key,
  at       timestamptz not null,
  who      text not null,          -- an account or key; empty where nobody was known
  role     text not null,          -- empty where nobody was known
  by_key   boolean not null,       -- by a key, not by a person who is signed in
  address  text not null,
  action   text not null,          -- the operation of the interface
  about    text not null,          -- what it was done to, in words or as a reference
  outcome  text not null,          -- done, refused
  detail   text not null,
  times    int not null            -- equal refusals within a minute are one row
);
create index audit_entry_at on public.audit_entry (at);
create index audit_entry_who on public.audit_entry (who, id);
create index audit_entry_action on public.audit_entry (action, id);

create function public.audit_is_append_only() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' and current_setting('longthread.audit_sweep', true) = 'on' then
    return old;
  end if;
  raise exception 'the audit log is append-only';
end $$;
create trigger audit_append_only before update or delete on public.audit_entry
  for each row execute function public.audit_is_append_only();
create trigger audit_not_truncated before truncate on public.audit_entry
  for each statement execute function public.audit_is_append_only();

-- A key may end by itself; when it was last used is known to the minute.
alter table public.api_key add column expires_at timestamptz;
alter table public.api_key add column last_used_at timestamptz;

-- Where rows can be read live for a preview. Passwords are never here.
create table public.preview_source (
  name        text primary key,
  settings    text not null,       -- JSON
  changed_by  text not null,
  changed_at  timestamptz not null
);

-- Random secrets of this installation, shared by its replicas.
create table public.installation_secret (
  name   text primary key,
  value  bytea not null
);
