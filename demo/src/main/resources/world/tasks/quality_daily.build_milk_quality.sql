-- does: sql
-- at: 03:30
-- about: The day's milk quality by route, as the dairies and the farms look at it.
-- owner: team:Quality <quality@hollinvale.example>
-- reads: core.lab_reading, core.pickup, core.farm
-- writes: mart.milk_quality_daily
-- part: core.lab_reading day
-- part: core.pickup day
-- part: mart.milk_quality_daily day
-- guard: select count(*) > 0 from core.lab_reading where reading_day = date '{day}' | quality for {day} cannot be computed: core.lab_reading holds no rows of that day
-- map: reading_day = core.lab_reading#reading_day IDENTITY
-- map: route_id = core.farm#route_id IDENTITY
-- map: samples = core.lab_reading#sample_no AGGREGATION masked
-- map: avg_fat_pct = core.lab_reading#fat_pct AGGREGATION
-- map: avg_protein_pct = core.lab_reading#protein_pct AGGREGATION
-- map: worst_cell_count = core.lab_reading#cell_count AGGREGATION
-- map: clean_share = core.lab_reading#is_clean CONDITIONAL
-- rows: core.pickup#sample_no JOIN, core.lab_reading#sample_no JOIN, core.pickup#farm_id JOIN, core.farm#farm_id JOIN, core.lab_reading#reading_day FILTER, core.lab_reading#reading_day GROUP_BY, core.farm#route_id GROUP_BY
insert into mart.milk_quality_daily (reading_day, route_id, samples, avg_fat_pct, avg_protein_pct, worst_cell_count, clean_share)
select l.reading_day, f.route_id, count(l.sample_no), avg(l.fat_pct), avg(l.protein_pct), max(l.cell_count),
  avg(case when l.is_clean then 1 else 0 end)
from core.lab_reading l
join core.pickup p on p.sample_no = l.sample_no
join core.farm f on f.farm_id = p.farm_id
where l.reading_day = date '{day}'
group by l.reading_day, f.route_id
