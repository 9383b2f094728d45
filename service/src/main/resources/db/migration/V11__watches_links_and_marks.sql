-- Who is notified of what, and where to.
create table public.watch (
  id           text primary key,
  owner        text not null,           -- the account or key that made it
  title        text not null,
  target_kind  text not null,           -- asset, owner, label, workspace
  target       text not null,           -- a reference, or a word
  about        text[] not null,         -- failure, lateness, check, unusual, notice
  channel      text not null,           -- webhook, email
  address      text not null,
  secret       text,                    -- of a webhook: what its messages are signed with
  digest       text not null,           -- at-once, hourly, daily
  digest_at    text,                    -- HH:MM of a daily digest
  quiet_from   text,                    -- HH:MM
  quiet_until  text,
  zone         text not null,
  made_at      timestamptz not null
);
-- What each watch has been notified of; a cause is notified once.
create table public.watch_cause (
  watch_id  text not null references public.watch on delete cascade,
  cause     text not null,
  seen_at   timestamptz not null,
  ended_at  timestamptz,
  primary key (watch_id, cause)
);
create table public.delivery (
  id         text primary key,
  watch_id   text not null references public.watch on delete cascade,
  made_at    timestamptz not null,
  message    text not null,             -- a CloudEvent, JSON
  subject    text not null,
  state      text not null,             -- waiting, sent, dead
  tries      int not null,
  next_at    timestamptz not null,
  sent_at    timestamptz,
  problem    text
);
create index delivery_due on public.delivery (next_at) where state = 'waiting';
create index delivery_newest on public.delivery (made_at desc);

-- A link by which somebody without an account sees the state of one report.
create table public.share_link (
  id          text primary key,
  hash        bytea not null unique,
  ref         text not null,
  made_by     text not null,
  made_at     timestamptz not null,
  until       timestamptz not null,
  revoked_at  timestamptz
);

-- Tickets that were opened from here.
create table public.ticket (
  id         text primary key,
  address    text not null,
  title      text not null,
  ref        text not null,
  notice     text,
  opened_by  text not null,
  opened_at  timestamptz not null,
  closed_at  timestamptz,
  outcome    text
);

-- What somebody looked at, and what they mean to look at later.
create table public.trail_step (
  person  text not null,
  ref     text not null,
  at      timestamptz not null,
  later   boolean not null,
  note    text,
  primary key (person, ref, later)
);
-- Whose trail others may see.
create table public.trail_sharing (
  person  text primary key
);
