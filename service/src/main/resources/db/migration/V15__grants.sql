-- Groups of people. A provider's groups of the same names count too, as far as they are listed here.
create table public.access_group (
  name     text primary key,
  title    text not null,
  made_at  timestamptz not null
);

create table public.group_member (
  group_name   text not null references public.access_group (name) on delete cascade,
  account      text not null references public.account (name) on delete cascade,
  by_provider  boolean not null,  -- as the provider said at the newest sign-in; else by hand
  primary key (group_name, account, by_provider)
);
create index group_member_account on public.group_member (account);

-- What somebody may do where. A holder that is deleted takes its grants along.
create table public.access_grant (
  id           bigint generated always as identity primary key,
  holder_kind  text not null check (holder_kind in ('account', 'group', 'key')),
  holder       text not null,
  role         text not null,
  scope_kind   text not null check (scope_kind in ('everything', 'system', 'workspace', 'label')),
  scope_value  text not null,
  granted_by   text not null,
  granted_at   timestamptz not null,
  expires_at   timestamptz,
  unique (holder_kind, holder, role, scope_kind, scope_value)
);
