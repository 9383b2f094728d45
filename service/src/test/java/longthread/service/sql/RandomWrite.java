package longthread.service.sql;

import java.util.List;

/**
 * Makes scripts by chance that change the farms of the dairy: each valid for PostgreSQL, with one
 * outcome.
 */
final class RandomWrite {
  /** The table that is changed, with its columns in order. */
  static final String TARGET = "farm";

  private static final List<String> NUMBERS =
      List.of("q.most", "q.least", "q.n", "farm.herd_size", "q.most + q.least", "q.n * 2");
  private static final List<String> TEXTS = List.of("q.word", "farm.farm_name", "q.word || 'x'");

  private final Choices choices;

  private RandomWrite(Choices choices) {
    this.choices = choices;
  }

  static String of(Choices choices) {
    var write = new RandomWrite(choices);
    return switch (choices.below(6)) {
      case 0 -> write.update();
      case 1 -> write.merge();
      case 2 -> write.insert();
      case 3 -> write.delete();
      case 4 -> write.temporary();
      default -> write.update() + ";\n" + write.delete();
    };
  }

  /** One row for each farm, so that a change has one outcome. */
  private String source() {
    String from =
        choices.of(
            List.of(
                "pickup",
                "pickup join lab using (sample_no)",
                "pickup join tanker on tanker.tanker_id = pickup.tanker_id"));
    String where = choices.below(2) == 0 ? "" : " where litres > " + (choices.below(6) * 40);
    return "(select farm_id, max(litres) as most, min(temperature_c) as least, count(*) as n,"
        + " max(pickup.sample_no) as word from "
            .replace("pickup.sample_no", from.contains("using") ? "sample_no" : "pickup.sample_no")
        + from
        + where
        + " group by farm_id) q";
  }

  private String assignments() {
    return choices.below(2) == 0
        ? "herd_size = " + number()
        : "farm_name = " + text() + ", herd_size = " + number();
  }

  private String number() {
    return choices.of(NUMBERS);
  }

  private String text() {
    return choices.of(TEXTS);
  }

  private String condition() {
    return choices.of(
        List.of("q.most > 100", "q.n > 1", "farm.herd_size > 30", "q.least is not null"));
  }

  private String update() {
    String and = choices.below(2) == 0 ? "" : " and " + condition();
    return "update farm set "
        + assignments()
        + " from "
        + source()
        + " where q.farm_id = farm.farm_id"
        + and;
  }

  private String merge() {
    String and = choices.below(2) == 0 ? "" : " and " + condition();
    String insert =
        choices.below(2) == 0
            ? ""
            : " when not matched then insert (farm_id, herd_size, farm_name)"
                + " values (q.farm_id + 100, q.n, q.word)";
    return "merge into farm using "
        + source()
        + " on q.farm_id = farm.farm_id"
        + " when matched"
        + and
        + " then update set "
        + assignments()
        + insert;
  }

  private String insert() {
    String distinct = choices.below(2) == 0 ? "" : " where q.most > 100";
    return "insert into farm (farm_id, herd_size, farm_name) select q.farm_id + 200, "
        + choices.of(List.of("q.most", "q.n", "q.least"))
        + ", q.word from "
        + source()
        + distinct;
  }

  private String delete() {
    return choices.below(2) == 0
        ? "delete from farm using " + source() + " where q.farm_id = farm.farm_id and q.most > 150"
        : "delete from farm where farm_id in (select route_id from route where length_km > 20)";
  }

  private String temporary() {
    return "create temp table step as select * from "
        + source()
        + ";\nupdate step set most = least where n > 1"
        + ";\ninsert into farm (farm_id, herd_size, farm_name)"
        + " select farm_id + 300, most, word from step"
        + ";\ndrop table step";
  }
}
