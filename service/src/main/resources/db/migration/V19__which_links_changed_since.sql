-- By which a graph of the past finds what to change of the graph of now: links that began since, which lie
-- together, and stretches that ended since.
create index link_row_first_seen on catalog.link_row using brin (first_seen);
create index link_span_until on catalog.link_span (until) where until is not null;
