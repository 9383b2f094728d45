-- does: check
-- at: 03:20
-- about: Checks that the day's laboratory readings are there and plausible.
-- owner: team:Quality <quality@hollinvale.example>
-- reads: core.lab_reading
-- part: core.lab_reading day
-- check: readings_present | | select count(*) >= 20 from core.lab_reading where reading_day = date '{day}' | at least 20 readings | select count(*) || ' readings' from core.lab_reading where reading_day = date '{day}'
-- check: fat_plausible | fat_pct | select coalesce(avg(fat_pct) between 2.5 and 6.5, true) from core.lab_reading where reading_day = date '{day}' | average from 2.5 to 6.5 | select coalesce(round(avg(fat_pct), 2)::text, 'none') from core.lab_reading where reading_day = date '{day}'
select count(*) from core.lab_reading where reading_day = date '{day}'
