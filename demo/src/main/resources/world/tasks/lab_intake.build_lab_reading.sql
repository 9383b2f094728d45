-- does: sql
-- at: 02:35
-- about: One clean row for each sample, with its quality class.
-- owner: team:Warehouse <warehouse@hollinvale.example>
-- after: lab_intake.load_readings
-- reads: raw.lab_reading
-- writes: core.lab_reading
-- part: raw.lab_reading day
-- part: core.lab_reading day
-- map: sample_no = raw.lab_reading#sample_no IDENTITY
-- map: reading_day = raw.lab_reading#measured_at TRANSFORMATION
-- map: fat_pct = raw.lab_reading#fat IDENTITY
-- map: protein_pct = raw.lab_reading#protein IDENTITY
-- map: cell_count = raw.lab_reading#cell_count IDENTITY
-- map: is_clean = raw.lab_reading#residue TRANSFORMATION
-- map: quality_class = raw.lab_reading#cell_count CONDITIONAL, raw.lab_reading#residue CONDITIONAL
-- rows: raw.lab_reading#measured_at FILTER, raw.lab_reading#fat FILTER
insert into core.lab_reading (sample_no, reading_day, fat_pct, protein_pct, cell_count, is_clean, quality_class)
select r.sample_no, r.measured_at::date, r.fat, r.protein, r.cell_count, not r.residue,
  case when r.residue or r.cell_count > 400000 then 'C' when r.cell_count > 200000 then 'B' else 'A' end
from raw.lab_reading r
where r.measured_at::date = date '{day}' and r.fat is not null
