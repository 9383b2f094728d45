-- does: unload
-- at: 01:05
-- about: Copies the day's pickups out of the collection team's database into the lake.
-- owner: team:Collection <collection@hollinvale.example>
-- reads: collect.pickup
-- writes: lake/pickup
-- part: lake/pickup replaced
-- map: pickup_id = collect.pickup#pickup_id IDENTITY
-- map: farm_id = collect.pickup#farm_id IDENTITY
-- map: tanker_id = collect.pickup#tanker_id IDENTITY
-- map: picked_at = collect.pickup#picked_at IDENTITY
-- map: litres = collect.pickup#litres IDENTITY
-- map: temperature_c = collect.pickup#temperature_c IDENTITY
-- map: sample_no = collect.pickup#sample_no IDENTITY
-- map: driver_note = collect.pickup#driver_note IDENTITY
-- rows: collect.pickup#picked_at FILTER
select pickup_id, farm_id, tanker_id, picked_at, litres, temperature_c, sample_no, driver_note
from collect.pickup
where picked_at >= date '{day}' and picked_at < date '{day}' + 1
order by pickup_id
