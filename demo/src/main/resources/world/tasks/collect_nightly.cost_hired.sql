-- does: sql
-- at: 02:04
-- about: What each route cost that day with hired tankers, by the kilometres agreed in their contracts.
-- owner: user:Ruth Ainley <ruth.ainley@hollinvale.example>
-- reads: collect.contract, collect.route, collect.farm, collect.pickup, collect.tanker
-- writes: mart.route_cost
-- part: mart.route_cost day
-- map: route_id = collect.route#route_id IDENTITY
-- map: route_name = collect.route#route_name IDENTITY
-- map: cost_day =
-- map: trips = collect.pickup#pickup_id AGGREGATION masked
-- map: km = collect.contract#agreed_km IDENTITY
-- map: cost_per_km = collect.contract#cents_per_km TRANSFORMATION
-- rows: collect.contract#route_id JOIN, collect.route#route_id JOIN, collect.farm#route_id JOIN, collect.pickup#farm_id JOIN, collect.farm#farm_id JOIN, collect.pickup#tanker_id JOIN, collect.tanker#tanker_id JOIN, collect.tanker#own FILTER, collect.pickup#picked_at FILTER, collect.route#closed_by_snow FILTER, collect.route#route_id GROUP_BY, collect.route#route_name GROUP_BY, collect.contract#agreed_km GROUP_BY, collect.contract#cents_per_km GROUP_BY
insert into mart.route_cost (route_id, route_name, cost_day, trips, km, cost_per_km)
select r.route_id, r.route_name, date '{day}', count(p.pickup_id), c.agreed_km, c.cents_per_km / 100
from collect.contract c
join collect.route r on r.route_id = c.route_id
join collect.farm f on f.route_id = r.route_id
join collect.pickup p on p.farm_id = f.farm_id
join collect.tanker t on t.tanker_id = p.tanker_id
where not t.own and p.picked_at::date = date '{day}' and not r.closed_by_snow
group by r.route_id, r.route_name, c.agreed_km, c.cents_per_km
