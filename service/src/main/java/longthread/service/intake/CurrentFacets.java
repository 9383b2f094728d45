package longthread.service.intake;

import java.util.Collection;
import java.util.HashMap;
import java.util.Map;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** The winning facets of datasets and jobs. */
@Component
class CurrentFacets {
  private final JdbcTemplate jdbc;

  CurrentFacets(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  /** Returns the winning facets of each subject, by key. */
  Map<Long, Map<String, JsonNode>> of(int kind, Collection<Long> ids) {
    var found = new HashMap<Long, Map<String, JsonNode>>();
    jdbc.query(
        "select f.subject_id, f.key, b.body from facet_now f join facet_body b using (digest)"
            + " where f.subject_kind = ? and f.subject_id = any(?)",
        row -> {
          found
              .computeIfAbsent(row.getLong(1), k -> new HashMap<>())
              .put(row.getString(2), StoredText.json(row.getBytes(3)));
        },
        kind,
        ids.toArray(Long[]::new));
    return found;
  }
}
