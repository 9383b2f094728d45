package longthread.demo;

import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.emitter.Emitter;
import longthread.emitter.Makes;
import longthread.emitter.Run;

/**
 * The office's own program for closing a pay period. It reaches the warehouse through a driver
 * under a name of its own, so what it reads has another name than what the warehouse writes, until
 * somebody says that the two are one.
 */
final class Tallybook {
  private static final String SOURCE = "odbc://barn-dsn/";
  private static final String SHARE = "file://office-share.hollinvale.example//tally/";

  /** What it does at the end of a period that needs no more than a mark. */
  interface Closing {
    @Makes(
        value = SHARE + "archive.zip",
        reads = SHARE + "payout_close.csv",
        returnsRows = true,
        properties = "office=payout")
    long archive();
  }

  private final Emitter emitter;

  Tallybook(String service, String token, Path home) {
    emitter =
        Emitter.to(service, token)
            .namespace("tallybook")
            .producer("https://hollinvale.example/tallybook/4")
            .spool(home.resolve("world").resolve("spool"))
            .start();
  }

  /** Closes a period, and sets the prices of the next. */
  void close() {
    copy(
        "close_period",
        SOURCE + "mart.payout_statement",
        SHARE + "payout_close.csv",
        List.of("farm_id", "volume_l", "amount"));
    copy(
        "set_prices",
        SHARE + "prices.xlsx",
        SOURCE + "core.price",
        List.of("quality_class", "cents_per_litre", "valid_from"));
    emitter.watch(Closing.class, () -> 140).archive();
    emitter.close();
  }

  private void copy(String job, String from, String to, List<String> columns) {
    Map<String, String> schema = new LinkedHashMap<>();
    columns.forEach(column -> schema.put(column, "text"));
    Run run = emitter.run(job).schema(from, schema).schema(to, schema);
    for (String column : columns) {
      run.column(to, column, from, column, Run.Flow.IDENTITY);
    }
    try (Run started = run.start()) {
      started.rows(to, 140).complete();
    }
  }
}
