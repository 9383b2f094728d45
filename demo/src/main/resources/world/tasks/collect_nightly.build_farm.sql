-- does: sql
-- at: 01:45
-- about: The farm register for analysis: no contact data, the account number beside its hash.
-- owner: team:Warehouse <warehouse@hollinvale.example>
-- reads: raw.farm
-- writes: core.farm
-- map: farm_id = raw.farm#farm_id IDENTITY
-- map: farm_name = raw.farm#farm_name IDENTITY
-- map: route_id = raw.farm#route_id IDENTITY
-- map: herd_size = raw.farm#herd_size IDENTITY
-- map: iban = raw.farm#iban IDENTITY
-- map: iban_hash = raw.farm#iban TRANSFORMATION masked
delete from core.farm;
insert into core.farm (farm_id, farm_name, route_id, herd_size, iban, iban_hash)
select f.farm_id, f.farm_name, f.route_id, f.herd_size, f.iban, md5(f.iban)
from raw.farm f
