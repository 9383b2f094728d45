-- does: sql
-- at: 02:00
-- about: What each route cost that day, from the trips made; reads the collection database directly.
-- owner: user:Ruth Ainley <ruth.ainley@hollinvale.example>
-- reads: collect.pickup, collect.route, collect.tanker, collect.farm
-- writes: mart.route_cost
-- map: route_id = collect.route#route_id IDENTITY
-- map: route_name = collect.route#route_name IDENTITY
-- map: cost_day = collect.pickup#picked_at TRANSFORMATION
-- map: trips = collect.pickup#pickup_id AGGREGATION masked
-- map: km = collect.route#length_km AGGREGATION, collect.route#closed_by_snow CONDITIONAL
-- map: cost_per_km = collect.tanker#own CONDITIONAL
-- rows: collect.pickup#farm_id JOIN, collect.farm#farm_id JOIN, collect.farm#route_id JOIN, collect.route#route_id JOIN, collect.pickup#tanker_id JOIN, collect.tanker#tanker_id JOIN, collect.pickup#picked_at FILTER, collect.route#route_name GROUP_BY
insert into mart.route_cost (route_id, route_name, cost_day, trips, km, cost_per_km)
select r.route_id, r.route_name, p.picked_at::date, count(p.pickup_id),
  sum(case when r.closed_by_snow then 0 else r.length_km end),
  avg(case when t.own then 1.10 else 1.65 end)
from collect.pickup p
join collect.farm f on f.farm_id = p.farm_id
join collect.route r on r.route_id = f.route_id
join collect.tanker t on t.tanker_id = p.tanker_id
where p.picked_at::date = date '{day}'
group by r.route_id, r.route_name, p.picked_at::date
