-- People: since when an account exists, whether it may sign in, when it last did.
alter table public.account add column created_at timestamptz not null default now();
alter table public.account add column disabled_at timestamptz;
alter table public.account add column last_sign_in_at timestamptz;

-- Who is signed in, on whatever replica; of the cookie only the hash is kept.
create table public.sign_in_session (
  hash        bytea primary key,
  account     text not null references public.account (name) on delete cascade,
  opened_at   timestamptz not null,
  seen_at     timestamptz not null
);
create index sign_in_session_account on public.sign_in_session (account);
create index sign_in_session_seen on public.sign_in_session (seen_at);

-- Sign-ins that failed, by account and address, and until when the next is refused.
create table public.failed_sign_in (
  subject       text primary key,
  failures      int not null,
  last_at       timestamptz not null,
  blocked_until timestamptz not null
);
