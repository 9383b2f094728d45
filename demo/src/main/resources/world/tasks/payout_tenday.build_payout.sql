-- does: sql
-- at: 03:00
-- about: What each farm is paid for the running ten days: volume at the price of its quality class, with a supplement for fat.
-- owner: team:Payout office <payout@hollinvale.example>
-- reads: core.pickup, core.lab_reading, core.farm, core.price
-- writes: mart.payout_statement
-- part: core.pickup days
-- part: core.lab_reading days
-- part: mart.payout_statement period
-- map: farm_id = core.farm#farm_id IDENTITY
-- map: farm_name = core.farm#farm_name IDENTITY
-- map: period_start =
-- map: volume_l = core.pickup#volume_l AGGREGATION
-- map: fat_pct = core.lab_reading#fat_pct AGGREGATION
-- map: quality_class = core.lab_reading#quality_class AGGREGATION
-- map: amount = core.pickup#volume_l AGGREGATION, core.lab_reading#fat_pct AGGREGATION, core.price#cents_per_litre AGGREGATION
-- map: pickups = core.pickup#pickup_id AGGREGATION masked
-- map: pay_to = core.farm#iban IDENTITY
-- rows: core.pickup#farm_id JOIN, core.farm#farm_id JOIN, core.pickup#sample_no JOIN, core.lab_reading#sample_no JOIN, core.lab_reading#quality_class JOIN, core.price#quality_class JOIN, core.pickup#pickup_day FILTER, core.farm#farm_id GROUP_BY, core.farm#farm_name GROUP_BY, core.farm#iban GROUP_BY
delete from mart.payout_statement where period_start = date '{period}';
insert into mart.payout_statement (farm_id, farm_name, period_start, volume_l, fat_pct, quality_class, amount, pickups, pay_to)
select f.farm_id, f.farm_name, date '{period}', sum(p.volume_l), avg(l.fat_pct), max(l.quality_class),
  round(sum(p.volume_l * (pr.cents_per_litre + (l.fat_pct - 4.0) * 2.5)) / 100, 2), count(p.pickup_id), f.iban
from core.pickup p
join core.farm f on f.farm_id = p.farm_id
join core.lab_reading l on l.sample_no = p.sample_no
join core.price pr on pr.quality_class = l.quality_class
where p.pickup_day >= date '{period}' and p.pickup_day < date '{period}' + 10
group by f.farm_id, f.farm_name, f.iban
