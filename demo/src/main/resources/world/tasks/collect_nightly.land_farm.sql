-- does: unload
-- at: 01:08
-- about: Copies the farm register as it stands into the lake.
-- owner: team:Collection <collection@hollinvale.example>
-- reads: collect.farm
-- writes: lake/farm
-- part: lake/farm replaced
-- map: farm_id = collect.farm#farm_id IDENTITY
-- map: farm_name = collect.farm#farm_name IDENTITY
-- map: contact_name = collect.farm#contact_name IDENTITY
-- map: phone = collect.farm#phone IDENTITY
-- map: iban = collect.farm#iban IDENTITY
-- map: route_id = collect.farm#route_id IDENTITY
-- map: herd_size = collect.farm#herd_size IDENTITY
select farm_id, farm_name, contact_name, phone, iban, route_id, herd_size
from collect.farm
order by farm_id
