-- does: load
-- at: 02:20
-- about: Loads the landed laboratory readings into the warehouse, untouched.
-- owner: team:Warehouse <warehouse@hollinvale.example>
-- after: lab_intake.land_readings
-- reads: lake/readings
-- writes: raw.lab_reading
-- part: raw.lab_reading day
-- map: sample_no = lake/readings#sample_no IDENTITY
-- map: measured_at = lake/readings#measured_at IDENTITY
-- map: fat = lake/readings#fat IDENTITY
-- map: protein = lake/readings#protein IDENTITY
-- map: cell_count = lake/readings#cell_count IDENTITY
-- map: residue = lake/readings#residue IDENTITY
-- map: load_day =
copy raw.lab_reading (sample_no, measured_at, fat, protein, cell_count, residue) from stdin with (format csv, header);
update raw.lab_reading set load_day = date '{day}' where load_day is null
