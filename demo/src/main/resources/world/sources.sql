-- The collection team's application database, as a schema of the same server.
drop schema if exists collect cascade;
drop schema if exists raw cascade;
drop schema if exists core cascade;
drop schema if exists mart cascade;
create schema collect;
create schema raw;
create schema core;
create schema mart;

create table collect.farm (
  farm_id int primary key, farm_name text not null, contact_name text, phone text, iban text, route_id int not null, herd_size int);
create table collect.tanker (tanker_id int primary key, plate text not null, own boolean not null, capacity_l int not null);
create table collect.route (route_id int primary key, route_name text not null, length_km numeric(6,1) not null, closed_by_snow boolean not null);
create table collect.pickup (
  pickup_id bigint primary key, farm_id int not null, tanker_id int not null, picked_at timestamp not null,
  litres numeric(8,1) not null, temperature_c numeric(4,1), sample_no text not null, driver_note text);
create table collect.odometer (tanker_id int not null, route_id int not null, driven_on date not null, counter_km numeric(7,1) not null, primary key (tanker_id, route_id, driven_on));
create table collect.contract (route_id int primary key, haulier text not null, agreed_km numeric(6,1) not null, cents_per_km numeric(6,2) not null, dispatch text not null);
create table core.price (quality_class text primary key, cents_per_litre numeric(6,2) not null, valid_from date not null);

select setseed(0.42);
insert into collect.route select r, 'Route ' || chr(64 + r), 40 + r * 7.5, r = 9 from generate_series(1, 10) r;
insert into collect.tanker select t, 'HV-' || (100 + t), t <= 6, 12000 + 1000 * (t % 4) from generate_series(1, 8) t;
insert into collect.contract select route_id, 'Haulier ' || (1 + route_id % 3), length_km + 4, 165, '+44 1632 96' || (4000 + route_id) from collect.route;
insert into collect.farm
  select f, (array['Upper','Lower','Old','New','North','South','Long'])[1 + f % 7] || ' '
    || (array['Hollin','Beck','Thorn','Ash','Fell','Mere','Crag','Birch','Gill','Moss'])[1 + f % 10] || ' Farm ' || f,
    'Contact ' || f, '+00 555 ' || lpad(f::text, 4, '0'), 'XX' || lpad((f * 7919)::text, 18, '0'), 1 + f % 10, 30 + (f * 13) % 90
  from generate_series(1, 140) f;
insert into core.price values ('A', 46.50, '2020-01-01'), ('B', 43.00, '2020-01-01'), ('C', 36.25, '2020-01-01');
