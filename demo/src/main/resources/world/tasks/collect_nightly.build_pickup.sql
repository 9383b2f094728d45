-- does: sql
-- at: 01:40
-- about: One clean row for each pickup; litres become volume_l, impossible readings of the flow meter are dropped.
-- owner: team:Warehouse <warehouse@hollinvale.example>
-- reads: raw.pickup
-- writes: core.pickup
-- part: raw.pickup day
-- part: core.pickup day
-- map: pickup_id = raw.pickup#pickup_id IDENTITY
-- map: farm_id = raw.pickup#farm_id IDENTITY
-- map: tanker_id = raw.pickup#tanker_id IDENTITY
-- map: pickup_day = raw.pickup#picked_at TRANSFORMATION
-- map: volume_l = raw.pickup#litres TRANSFORMATION
-- map: temperature_c = raw.pickup#temperature_c IDENTITY
-- map: sample_no = raw.pickup#sample_no IDENTITY
-- rows: raw.pickup#litres FILTER, raw.pickup#picked_at FILTER
insert into core.pickup (pickup_id, farm_id, tanker_id, pickup_day, volume_l, temperature_c, sample_no)
select p.pickup_id, p.farm_id, p.tanker_id, p.picked_at::date, round(p.litres * 0.998, 1), p.temperature_c, p.sample_no
from raw.pickup p
where p.litres between 20 and 12000 and p.picked_at::date = date '{day}'
on conflict (pickup_id) do nothing
