package longthread.service.log;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import org.springframework.jdbc.core.JdbcTemplate;

/** Reads accepted events back out of the log, as tests send them again. */
public final class LogReader {
  private LogReader() {}

  public static List<String> events(JdbcTemplate jdbc) {
    var events = new ArrayList<String>();
    for (byte[] block :
        jdbc.queryForList("select body from event_block order by id", byte[].class)) {
      for (BlockCodec.Entry entry : BlockCodec.entries(block)) {
        if (!entry.refused()) {
          events.add(new String(entry.bytes(), StandardCharsets.UTF_8));
        }
      }
    }
    return events;
  }
}
