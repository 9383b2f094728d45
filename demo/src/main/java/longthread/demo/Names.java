package longthread.demo;

import java.time.LocalDate;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/** How the demo world's short names stand in events. */
final class Names {
  static final String BI_NAMESPACE = "sightglass://hollinvale";

  /** A dataset by namespace and name, with what its system calls itself. */
  record Dataset(String namespace, String name, String system) {
    ObjectNode node() {
      return JsonNodeFactory.instance.objectNode().put("namespace", namespace).put("name", name);
    }
  }

  private Names() {}

  /**
   * The dataset behind a short name as it is on a day: the lake is partitioned by day, and the
   * laboratory writes a file for each.
   */
  static Dataset dataset(String name, LocalDate day) {
    Dataset whole = dataset(name);
    if (name.startsWith("lake/")) {
      return new Dataset(whole.namespace(), whole.name() + "/day=" + day, whole.system());
    }
    if (name.startsWith("lab/")) {
      String file = whole.name() + "_" + day.toString().replace("-", "") + ".csv";
      return new Dataset(whole.namespace(), file, whole.system());
    }
    return whole;
  }

  /** The dataset behind a short name such as {@code core.pickup}, {@code lake/farm}. */
  static Dataset dataset(String name) {
    int slash = name.indexOf('/');
    if (slash >= 0) {
      String item = name.substring(slash + 1);
      return switch (name.substring(0, slash)) {
        case "lake" -> new Dataset("s3://hollinvale-lake", "landed/" + item, "lake");
        case "lab" ->
            new Dataset("file://lab-share.hollinvale.example", "/drop/" + item, "lab drop");
        default -> new Dataset(BI_NAMESPACE, name, "sightglass");
      };
    }
    return name.startsWith("collect.")
        ? new Dataset(
            "postgres://collect-db.hollinvale.example:5432",
            "collect.public" + name.substring("collect".length()),
            "collect-db")
        : new Dataset("postgres://barn.hollinvale.example:5432", "barn." + name, "barn");
  }
}
