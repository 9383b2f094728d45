-- Whether the accepted events of a block have lost their bytes; refused ones may still be in it.
alter table public.event_block add column aged boolean not null default false;
update public.event_block set aged = true where body is null;
create index event_seen_block on public.event_seen (block_id);
