select r.route_name, sum(p.litres) as litres, avg(p.temperature_c) as warm, count(*) as pickups
from pickup p join farm f on f.farm_id = p.farm_id join route r on r.route_id = f.route_id
where p.picked_at < timestamp '2026-10-08 00:00:00' and not r.closed
group by r.route_name
order by litres desc;

select f.farm_name, p.litres, l.fat
from farm f, pickup p, lab l
where f.farm_id = p.farm_id and p.sample_no = l.sample_no
  and l.fat = (select max(l2.fat) from lab l2, pickup p2 where p2.sample_no = l2.sample_no and p2.farm_id = f.farm_id);

select f.farm_id, sum(p.litres * (1 - coalesce(l.fat, 0) / 100)) as net, min(p.picked_at) as since
from farm f join pickup p on p.farm_id = f.farm_id left join lab l on l.sample_no = p.sample_no
where f.herd_size > 2
group by f.farm_id
having sum(p.litres) > 50;

select t.own, count(*) as trips
from tanker t join pickup p on p.tanker_id = t.tanker_id
where p.picked_at >= timestamp '2026-10-02 00:00:00' and exists (select * from lab l where l.sample_no = p.sample_no and l.measured_at > p.picked_at)
group by t.own;

select r.route_id, sum(case when t.own then r.length_km else 0 end) as own_km, sum(case when not t.own then r.length_km else 0 end) as hired_km
from route r join farm f on f.route_id = r.route_id join pickup p on p.farm_id = f.farm_id join tanker t on t.tanker_id = p.tanker_id
group by r.route_id;

select sum(litres * temperature_c) as heat from pickup where litres between 20 and 200 and temperature_c < 7;

select extract(day from p.picked_at) as day, sum(case when r.closed then p.litres else 0 end) / nullif(sum(p.litres), 0) as share
from pickup p join farm f on f.farm_id = p.farm_id join route r on r.route_id = f.route_id
group by extract(day from p.picked_at);

select q.quality_class, sum(p.litres * q.cents) / 100 as paid
from pickup p
join lab l on l.sample_no = p.sample_no
join price q on q.quality_class = case when l.residue then '3' when l.cell_count > 220000 then '2' else '1' end
group by q.quality_class;

with income as (
  select p.farm_id, sum(p.litres) as total from pickup p group by p.farm_id)
select f.farm_id, f.farm_name, i.total
from farm f join income i on i.farm_id = f.farm_id
where i.total = (select max(total) from income);

select f.route_id, count(distinct f.farm_id) as farms
from farm f
where f.farm_name not like 'F3%' and f.farm_id not in (select p.farm_id from pickup p where p.temperature_c > 6 and p.farm_id is not null)
group by f.route_id;

select sum(p.litres) / 7.0 as weekly
from pickup p join tanker t on t.tanker_id = p.tanker_id
where t.own and p.litres < (select 1.2 * avg(p2.litres) from pickup p2 where p2.tanker_id = t.tanker_id);

select f.farm_name, f.farm_id, p.pickup_id, sum(p.litres) as s
from farm f join pickup p on f.farm_id = p.farm_id
where p.pickup_id in (select pickup_id from pickup group by pickup_id having sum(litres) > 80)
group by f.farm_name, f.farm_id, p.pickup_id;

select sum(p.litres * q.cents) as revenue
from pickup p, price q, lab l
where l.sample_no = p.sample_no
  and ((q.quality_class = '1' and l.fat between 1 and 5) or (q.quality_class = '2' and l.protein > 3 and not l.residue));

select f.farm_name
from farm f
where f.farm_id in (select p.farm_id from pickup p where p.litres > (select 0.5 * sum(p2.litres) from pickup p2 where p2.farm_id = p.farm_id))
order by f.farm_name;

select l.sample_no
from lab l
where exists (select 1 from pickup p where p.sample_no = l.sample_no and p.litres > 30)
  and not exists (select 1 from pickup p join tanker t on t.tanker_id = p.tanker_id where p.sample_no = l.sample_no and not t.own);

select substring(f.farm_name from 1 for 1) as letter, count(*) as n, sum(f.herd_size) as cows
from farm f
where f.herd_size > (select avg(herd_size) from farm where herd_size > 0)
  and not exists (select * from pickup p where p.farm_id = f.farm_id)
group by substring(f.farm_name from 1 for 1);

select b.dairy, avg(b.ripe - b.started) as days, sum(b.kg) as kg
from batch b
group by b.dairy
having count(*) > 1;

select b.batch_id, b.dairy, count(t.turned_at) as turnings, max(t.turned_at) as last_turned
from batch b left join turning t on t.batch_id = b.batch_id and t.turned_at::date >= b.started
group by b.batch_id, b.dairy;

select dairy, kg, rank() over (partition by dairy order by kg desc) as place, kg - avg(kg) over (partition by dairy) as off
from batch;

select *
from (select farm_id, litres, dense_rank() over (partition by farm_id order by litres desc) as place from pickup) ranked
where place <= 2;

select farm_id, picked_at::date as day, sum(sum(litres)) over (partition by farm_id order by picked_at::date) as so_far
from pickup
group by farm_id, picked_at::date;

select tanker_id, litres, max(litres) over (order by litres rows between 1 preceding and 1 following) as around
from pickup;

select farm_id, litres, lag(litres) over (partition by farm_id order by picked_at, pickup_id) as before, litres - lag(litres) over (partition by farm_id order by picked_at, pickup_id) as more
from pickup;

with monthly as (
  select f.route_id, extract(day from p.picked_at) as day, sum(p.litres) as litres
  from pickup p join farm f using (farm_id) group by f.route_id, extract(day from p.picked_at)),
ranked as (
  select m.*, avg(litres) over (partition by route_id) as mean, row_number() over (partition by route_id order by day) as n from monthly m)
select a.route_id, a.day, a.litres, a.mean, b.litres as before
from ranked a left join ranked b on b.route_id = a.route_id and b.n = a.n - 1
where a.litres > a.mean * 0.9;

with own as (select p.farm_id, sum(p.litres) s from pickup p join tanker t using (tanker_id) where t.own group by p.farm_id),
hired as (select p.farm_id, sum(p.litres) s from pickup p join tanker t using (tanker_id) where not t.own group by p.farm_id)
select coalesce(o.farm_id, h.farm_id) as farm_id, o.s as own_litres, h.s as hired_litres, coalesce(o.s, 0) + coalesce(h.s, 0) as litres
from own o full join hired h on h.farm_id = o.farm_id;

with recursive steps as (
  select batch_id, kg::numeric as kg, 1 as depth from batch where batch_id < 3
  union all
  select b.batch_id, b.kg + s.kg, s.depth + 1 from batch b join steps s on b.batch_id = s.batch_id + 2 where s.depth < 4)
select depth, sum(kg) as kg, count(*) as n from steps group by depth;

with recursive reach as (
  select farm_id, route_id from farm where farm_id = 1
  union
  select f.farm_id, f.route_id from farm f join reach r on f.route_id = r.farm_id)
select count(*) as n, max(route_id) as last_route from reach;

select 'farm' as kind, farm_id as id, farm_name as name from farm where herd_size > 3
union all
select 'route', route_id, route_name from route where not closed
union all
select 'tanker', tanker_id, case when own then 'own' else 'hired' end from tanker;

select farm_id from farm
intersect
select farm_id from pickup where litres > 40
except
select farm_id from pickup where temperature_c > 7;

select x.farm_id, x.kind, count(*) as n
from (select farm_id, 'cold' as kind from pickup where temperature_c < 4
      union all
      select farm_id, 'warm' from pickup where temperature_c >= 4) x
group by grouping sets ((x.farm_id), (x.kind), ());

select route_id, closed, sum(length_km) as km, grouping(route_id) as all_routes
from route
group by rollup (route_id, closed);

select f.farm_id, last.litres, last.picked_at
from farm f
left join lateral (select p.litres, p.picked_at from pickup p where p.farm_id = f.farm_id order by p.picked_at desc, p.pickup_id desc limit 1) last on true;

select f.farm_id, v.kind, v.value
from farm f cross join lateral (values ('cows', f.herd_size), ('route', f.route_id)) as v(kind, value)
where v.value > 3;

select l.sample_no, u.value, u.place
from lab l, unnest(array[l.fat, l.protein]) with ordinality as u(value, place)
where u.value > 2;

select b.batch_id, d.day
from batch b cross join lateral generate_series(least(b.started, b.ripe), least(b.started, b.ripe) + 2, interval '1 day') as d(day)
where b.kg > 50;

select string_agg(f.farm_name, ',' order by f.herd_size desc, f.farm_id) as names, array_agg(f.farm_id order by f.farm_name, f.farm_id) as ids
from farm f;

select percentile_cont(0.5) within group (order by litres) as median, percentile_disc(0.9) within group (order by temperature_c) as p90
from pickup;

select t.tanker_id, count(*) filter (where p.litres > 60) as big, sum(p.litres) filter (where p.temperature_c < 5) as cold
from tanker t left join pickup p on p.tanker_id = t.tanker_id
group by t.tanker_id;

select p.pickup_id, case when l.sample_no is null then 'unsampled' when l.residue then 'rejected' else q.quality_class end as outcome
from pickup p
left join lab l on l.sample_no = p.sample_no
left join price q on q.cents > l.fat * 1.2;

select distinct f.route_id, l.residue
from farm f join pickup p using (farm_id) join lab l using (sample_no)
where l.measured_at > p.picked_at - interval '5 days';

select distinct on (farm_id) farm_id, sample_no, litres
from pickup
order by farm_id, litres desc nulls last, pickup_id;

select farm_id, litres
from pickup
where (farm_id, picked_at) in (select farm_id, max(picked_at) from pickup group by farm_id);

select f.farm_id, f.herd_size
from farm f
where f.herd_size >= all (select f2.herd_size from farm f2 where f2.route_id = f.route_id and f2.herd_size is not null);

select f.farm_id, (select count(*) from pickup p where p.farm_id = f.farm_id) as pickups, (select string_agg(r.route_name, '/' order by r.route_name) from route r where r.route_id <= f.route_id) as routes
from farm f;

select p.pickup_id, p.litres
from pickup p
where p.litres > (select avg(litres) from pickup)
order by p.litres desc, p.pickup_id
limit 4;

select sample_no, greatest(fat, protein) as most, least(fat, protein) as least_of, nullif(fat, protein) as differs
from lab
where coalesce(residue, true) is not true;

select r.route_name, f.farm_name
from route r left join farm f on f.route_id = r.route_id and f.herd_size > 4
where f.farm_id is null or r.length_km > 3;

select a.farm_id as one, b.farm_id as other
from farm a join farm b on a.route_id = b.route_id and a.farm_id < b.farm_id;

select md5(f.iban) as code, upper(f.farm_name) as name, length(f.iban) as n
from farm f
where left(f.iban, 2) <> 'I3';

select p.tanker_id, json_agg(p.litres order by p.pickup_id) as list
from pickup p
group by p.tanker_id;

select b.dairy, b.batch_id
from batch b
where exists (select 1 from turning t where t.batch_id = b.batch_id and t.side = 'S2')
   or b.kg > (select avg(kg) from batch b2 where b2.dairy = b.dairy);

with good as (select sample_no, fat from lab where not residue), seen as (select p.farm_id, g.fat from pickup p join good g using (sample_no))
select f.farm_name, avg(s.fat) as fat
from farm f left join seen s on s.farm_id = f.farm_id
group by f.farm_name
having avg(s.fat) > 2 or avg(s.fat) is null;

select coalesce(p.farm_id, f.farm_id) as farm_id, p.litres, f.herd_size
from pickup p full join farm f on f.farm_id = p.farm_id
where p.litres is null or f.herd_size is null;

select width_bucket(litres, 0, 300, 6) as bucket, count(*) as n
from pickup
where litres is not null
group by width_bucket(litres, 0, 300, 6)
having count(*) > 1;

select sum(x.n) as n, max(x.l) as l
from (select farm_id, count(*) as n, sum(litres) as l from pickup group by farm_id) x
where x.n > 1;

select ntile(3) over (order by litres, pickup_id) as third, pickup_id, cume_dist() over (order by temperature_c) as share
from pickup;

select p.farm_id, first_value(p.litres) over w as first_litres, last_value(p.litres) over w as last_litres
from pickup p
window w as (partition by p.farm_id order by p.picked_at, p.pickup_id rows between unbounded preceding and unbounded following);

select t.tanker_id, t.capacity, p.litres, p.litres / nullif(t.capacity, 0) as load
from tanker t join pickup p on p.tanker_id = t.tanker_id and p.litres > t.capacity * 10;

select q.quality_class, q.cents, q.cents - lead(q.cents) over (order by q.quality_class) as step
from price q;

select count(*) as farms, count(iban) as with_iban, count(distinct route_id) as routes, bool_or(herd_size > 6) as any_big
from farm;

select date_trunc('day', measured_at) as day, avg(fat) as fat, stddev_pop(fat) as spread, corr(fat, protein) as together
from lab
group by date_trunc('day', measured_at);

select e.farm_id, e.n
from (select farm_id, count(*) over (partition by route_id) as n from farm) e
where e.n > 1
order by e.n desc, e.farm_id
limit 5;

with a as (select farm_id, litres from pickup where litres > 10), b as (select farm_id, max(litres) as top from a group by farm_id), c as (select a.farm_id, a.litres, b.top from a join b using (farm_id))
select farm_id, litres / top as part from c where litres < top;

select case f.route_id when 1 then 'north' when 2 then f.farm_name else 'south' end as area, sum(f.herd_size) as cows
from farm f
group by case f.route_id when 1 then 'north' when 2 then f.farm_name else 'south' end;

select p.sample_no
from pickup p
where p.sample_no = any (select l.sample_no from lab l where l.cell_count > 200000) and p.tanker_id <> all (select t.tanker_id from tanker t where t.own);
