package longthread.core.asset;

import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Spellings of one address that are always the same thing: the case of a host, and a default port
 * that is left out.
 */
public final class NamingRules {
  private static final Pattern ADDRESS =
      Pattern.compile("^([A-Za-z][A-Za-z0-9+.-]*)://([^/]*)(.*)$", Pattern.DOTALL);
  private static final Map<String, String> DEFAULT_PORTS =
      Map.of(
          "postgres", "5432",
          "redshift", "5439",
          "mysql", "3306",
          "sqlserver", "1433",
          "oracle", "1521",
          "db2", "50000",
          "cassandra", "9042",
          "kafka", "9092",
          "hive", "10000",
          "clickhouse", "8123");

  private NamingRules() {}

  /** The spelling under which all names that these rules hold to be one are equal. */
  public static DatasetName canonical(DatasetName name) {
    Matcher address = ADDRESS.matcher(name.namespace());
    if (!address.matches()) {
      return name;
    }
    String scheme = address.group(1).toLowerCase(Locale.ROOT);
    String host = address.group(2);
    // What stands before an @ names a container or a user, and its case may matter.
    int at = host.lastIndexOf('@') + 1;
    host = host.substring(0, at) + host.substring(at).toLowerCase(Locale.ROOT);
    String port = DEFAULT_PORTS.get(scheme);
    if (port != null && !host.isEmpty() && host.indexOf(':') < 0) {
      host = host + ":" + port;
    }
    return new DatasetName(scheme + "://" + host + address.group(3), name.name());
  }
}
