package longthread.service.sql;

import java.time.Duration;
import java.util.Set;
import longthread.core.sql.Functions;
import longthread.core.sql.SqlReader;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** The reader of SQL, as the settings have it. */
@Configuration
class SqlReaderConfig {
  /**
   * @param masking functions behind which a value cannot be read back, besides the usual ones
   * @param millis for how long a statement may be worked at
   */
  @Bean
  SqlReader sqlReader(
      @Value("${longthread.sql.masking-functions:}") Set<String> masking,
      @Value("${longthread.sql.statement-millis:2000}") long millis) {
    var usual = SqlReader.Limits.USUAL;
    return new SqlReader(
        new Functions(masking),
        new SqlReader.Limits(Duration.ofMillis(millis), usual.nesting(), usual.length()));
  }
}
