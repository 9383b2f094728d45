-- does: sql
-- at: 02:00
-- about: What each route cost that day with the co-operative's own tankers, by their kilometre counters; reads the collection database directly.
-- owner: user:Ruth Ainley <ruth.ainley@hollinvale.example>
-- reads: collect.odometer, collect.tanker, collect.pickup, collect.farm, collect.route
-- writes: mart.route_cost
-- part: mart.route_cost day
-- map: route_id = collect.route#route_id IDENTITY
-- map: route_name = collect.route#route_name IDENTITY
-- map: cost_day =
-- map: trips = collect.pickup#pickup_id AGGREGATION masked
-- map: km = collect.odometer#counter_km AGGREGATION
-- map: cost_per_km =
-- rows: collect.odometer#tanker_id JOIN, collect.tanker#tanker_id JOIN, collect.tanker#own FILTER, collect.odometer#driven_on FILTER, collect.odometer#route_id GROUP_BY, collect.odometer#route_id JOIN, collect.pickup#farm_id JOIN, collect.farm#farm_id JOIN, collect.pickup#picked_at FILTER, collect.farm#route_id GROUP_BY, collect.farm#route_id JOIN, collect.route#route_id JOIN, collect.route#closed_by_snow FILTER
insert into mart.route_cost (route_id, route_name, cost_day, trips, km, cost_per_km)
with driven as (
  select o.route_id, sum(o.counter_km) as km
  from collect.odometer o
  join collect.tanker t on t.tanker_id = o.tanker_id
  where t.own and o.driven_on = date '{day}'
  group by o.route_id
), trips as (
  select f.route_id, count(p.pickup_id) as trips
  from collect.pickup p
  join collect.farm f on f.farm_id = p.farm_id
  where p.picked_at::date = date '{day}'
  group by f.route_id
)
select r.route_id, r.route_name, date '{day}', n.trips, d.km, 1.10
from driven d
join collect.route r on r.route_id = d.route_id
join trips n on n.route_id = r.route_id
where not r.closed_by_snow
union all
select r.route_id, r.route_name, date '{day}', 0, 0, 0
from collect.route r
where r.closed_by_snow
