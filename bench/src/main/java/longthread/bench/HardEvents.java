package longthread.bench;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Random;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicLong;

/** Events of many jobs, the same for the same seeds but for their times. Safe for many threads. */
final class HardEvents {
  static final int JOBS = 2_000;

  private final AtomicLong counter = new AtomicLong();

  /** An event of one of many jobs; some jobs are new, some events have SQL, some fail. */
  byte[] next(Random random) {
    long number = counter.incrementAndGet();
    int job = random.nextInt(JOBS) + (random.nextInt(50) == 0 ? (int) number : 0);
    int columns = 3 + job % 30;
    var fields = new StringBuilder();
    var map = new StringBuilder();
    for (int c = 0; c < columns; c++) {
      String comma = c == 0 ? "" : ",";
      fields.append(comma).append("{\"name\":\"c" + c + "\",\"type\":\"numeric\"}");
      map.append(comma)
          .append(
              "\"c" + c + "\":{\"inputFields\":[{\"namespace\":\"pg://hard\",\"name\":\"in" + job)
          .append("\",\"field\":\"c" + c + "\"}]}");
    }
    String schema =
        "\"schema\":{\"_producer\":\"p\",\"_schemaURL\":\"s\",\"fields\":[" + fields + "]}";
    String sql =
        job % 2 == 0
            ? ",\"facets\":{\"sql\":{\"_producer\":\"p\",\"_schemaURL\":\"s\",\"query\":\"insert into out"
                + job
                + " select * from in"
                + job
                + " where c0 > "
                + job
                + "\"}}"
            : "";
    return ("{\"eventType\":\""
            + (random.nextInt(20) == 0 ? "FAIL" : "COMPLETE")
            + "\",\"eventTime\":\""
            + Instant.now()
            + "\",\"producer\":\"https://hard.example\",\"schemaURL\":\"s\",\"run\":{\"runId\":\""
            + new UUID(random.nextLong(), random.nextLong())
            + "\"},\"job\":{\"namespace\":\"hard\",\"name\":\"job"
            + job
            + "\""
            + sql
            + "},\"inputs\":[{\"namespace\":\"pg://hard\",\"name\":\"in"
            + job
            + "\",\"facets\":{"
            + schema
            + "}}],\"outputs\":[{\"namespace\":\"pg://hard\",\"name\":\"out"
            + job
            + "\",\"facets\":{"
            + schema
            + ",\"columnLineage\":{\"_producer\":\"p\",\"_schemaURL\":\"s\",\"fields\":{"
            + map
            + "}}}}]}")
        .getBytes(StandardCharsets.UTF_8);
  }
}
