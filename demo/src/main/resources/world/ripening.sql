-- The cellar team's database. No emitter reports of it: it is there to be read.
create table batch (
  batch_no text primary key,
  cheese text not null,
  salted_on date not null,
  sold_on date,
  weight_kg numeric(7,1) not null,
  shelf text not null
);
comment on table batch is 'A batch of cheese from salting to sale';
comment on column batch.salted_on is 'From this day on it ripens';
comment on column batch.weight_kg is 'Weighed when it was turned last';

create table cellar_climate (
  cellar text not null,
  measured_at timestamp not null,
  temperature_c numeric(4,1) not null,
  humidity_pct numeric(4,1) not null,
  primary key (cellar, measured_at)
);
comment on table cellar_climate is 'What the sensors of the cellars measure every ten minutes';

create table person (
  person_no int primary key,
  name text not null,
  phone text
);
comment on table person is 'Who works in the cellars [labels: personal]';
comment on column person.phone is 'For the night shift [labels: personal, contact]';

create table turning (
  batch_no text not null references batch,
  turned_at timestamp not null,
  turned_by text not null,
  person_no int references person,
  primary key (batch_no, turned_at)
);
comment on table turning is 'Each time a batch was turned, and by whom';

create view ripe_batch as
  select b.batch_no, b.cheese, current_date - b.salted_on as age_days, b.weight_kg
  from batch b
  where b.sold_on is null and current_date - b.salted_on >= 120;
comment on view ripe_batch is 'Batches that are old enough to be sold';

create materialized view turning_day as
  select t.turned_at::date as day, b.cheese, count(*) as turnings, sum(b.weight_kg) as kilograms
  from turning t join batch b using (batch_no)
  group by t.turned_at::date, b.cheese;

create table cellar_loss (cheese text primary key, kilograms numeric not null);
create function write_losses() returns void language plpgsql as $$
begin
  delete from cellar_loss;
  insert into cellar_loss (cheese, kilograms)
    select b.cheese, sum(b.weight_kg) * 0.02 from ripe_batch b group by b.cheese;
end $$;
comment on function write_losses() is 'What evaporates until the sale, by cheese';

insert into person values (1, 'Hob Marsh', '555-0101'), (2, 'Tilda Crane', '555-0102');
insert into batch
  select 'B' || n, (array['Vale hard', 'Old Hollin'])[1 + n % 2], current_date - n * 3, null, 30 + n % 7, 'S' || n % 12
  from generate_series(1, 80) n;
insert into cellar_climate
  select 'north', current_date - n * interval '10 minutes', 11 + (n % 7) * 0.2, 84 + (n % 5) from generate_series(1, 400) n;
insert into turning select 'B' || 1 + n % 80, current_date - n * interval '5 hours', 'hob', 1 + n % 2 from generate_series(1, 300) n;
