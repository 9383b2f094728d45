create table raw.pickup (pickup_id bigint, farm_id int, tanker_id int, picked_at timestamp, litres numeric(8,1), temperature_c numeric(4,1), sample_no text, driver_note text, load_day date);
create table raw.farm (farm_id int, farm_name text, contact_name text, phone text, iban text, route_id int, herd_size int);
create table raw.lab_reading (sample_no text, measured_at timestamp, fat numeric(6,2), protein numeric(6,2), cell_count int, residue boolean, load_day date);
create table core.pickup (pickup_id bigint primary key, farm_id int, tanker_id int, pickup_day date, volume_l numeric(8,1), temperature_c numeric(4,1), sample_no text);
create table core.farm (farm_id int primary key, farm_name text, route_id int, herd_size int, iban text, iban_hash text);
create table core.lab_reading (sample_no text, reading_day date, fat_pct numeric(6,2), protein_pct numeric(6,2), cell_count int, is_clean boolean, quality_class text);
create table mart.payout_statement (farm_id int, farm_name text, period_start date, volume_l numeric(12,1), fat_pct numeric(6,2), quality_class text, amount numeric(12,2), pickups int, pay_to text);
create table mart.milk_quality_daily (reading_day date, route_id int, samples int, avg_fat_pct numeric(6,2), avg_protein_pct numeric(6,2), worst_cell_count int, clean_share numeric(6,3));
create table mart.route_cost (route_id int, route_name text, cost_day date, trips int, km numeric(10,1), cost_per_km numeric(6,2));
