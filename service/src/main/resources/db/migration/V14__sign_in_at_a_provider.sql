-- An account of somebody who signs in at an OpenID Connect provider: who the provider says it is.
alter table public.account add column issuer text;
alter table public.account add column subject text;
create unique index account_subject on public.account (issuer, subject) where issuer is not null;

-- Of a session that a provider opened: what signs it out there, and by what the provider names it.
alter table public.sign_in_session add column id_token text;
alter table public.sign_in_session add column provider_session text;
create index sign_in_session_provider on public.sign_in_session (provider_session)
  where provider_session is not null;

-- Sign-ins that were sent to the provider and are not back yet; they end after some minutes.
create table public.provider_sign_in (
  state       bytea primary key,   -- SHA-256 of what the provider hands back
  browser     bytea not null,      -- SHA-256 of a cookie: only that browser may come back with it
  nonce       text not null,
  verifier    text not null,       -- of PKCE
  target      text not null,       -- the page to go on to
  started_at  timestamptz not null
);
