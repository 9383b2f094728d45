-- does: load
-- at: 01:20
-- about: Loads the landed pickups into the warehouse, untouched.
-- owner: team:Warehouse <warehouse@hollinvale.example>
-- reads: lake/pickup
-- writes: raw.pickup
-- part: raw.pickup day
-- map: pickup_id = lake/pickup#pickup_id IDENTITY
-- map: farm_id = lake/pickup#farm_id IDENTITY
-- map: tanker_id = lake/pickup#tanker_id IDENTITY
-- map: picked_at = lake/pickup#picked_at IDENTITY
-- map: litres = lake/pickup#litres IDENTITY
-- map: temperature_c = lake/pickup#temperature_c IDENTITY
-- map: sample_no = lake/pickup#sample_no IDENTITY
-- map: driver_note = lake/pickup#driver_note IDENTITY
-- map: load_day =
copy raw.pickup (pickup_id, farm_id, tanker_id, picked_at, litres, temperature_c, sample_no, driver_note) from stdin with (format csv, header);
update raw.pickup set load_day = date '{day}' where load_day is null
