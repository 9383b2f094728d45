package longthread.service.sources;

import java.util.List;
import longthread.service.sources.Connections.Snippet;

/** Settings that can be pasted as they are, for each kind of source. */
final class ConnectionSettings {
  private ConnectionSettings() {}

  static List<Snippet> of(String kind, String name, String base, String token) {
    return switch (kind) {
      case "http" ->
          List.of(
              new Snippet(
                  "The standard's clients, in openlineage.yml",
                  "transport:\n  type: http\n  url: "
                      + base
                      + "\n  auth: {type: api_key, apiKey: "
                      + token
                      + "}\n"),
              new Snippet(
                  "The same as environment variables",
                  "OPENLINEAGE_URL=" + base + "\nOPENLINEAGE_API_KEY=" + token + "\n"),
              new Snippet(
                  "By hand, to see that it works",
                  "curl -X POST "
                      + base
                      + "/api/v1/lineage -H 'Authorization: Bearer "
                      + token
                      + "' -H 'Content-Type: application/json' -d '{\n"
                      + "  \"eventTime\": \"'$(date -u +%FT%TZ)'\", \"eventType\": \"COMPLETE\",\n"
                      + "  \"producer\": \"https://example.org/"
                      + name
                      + "\",\n"
                      + "  \"schemaURL\": \"https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/RunEvent\",\n"
                      + "  \"run\": {\"runId\": \"'$(cat /proc/sys/kernel/random/uuid)'\"},\n"
                      + "  \"job\": {\"namespace\": \""
                      + name
                      + "\", \"name\": \"first_try\"},\n"
                      + "  \"inputs\": [], \"outputs\": [{\"namespace\": \""
                      + name
                      + "\", \"name\": \"first_table\"}]}'\n"));
      case "kafka" ->
          List.of(
              new Snippet(
                  "Settings of the service",
                  "LONGTHREAD_KAFKA_BOOTSTRAP=broker:9092\nLONGTHREAD_KAFKA_TOPICS=lineage\n"),
              new Snippet(
                  "The standard's clients, in openlineage.yml",
                  "transport:\n  type: kafka\n  topicName: lineage\n  properties:\n"
                      + "    bootstrap.servers: broker:9092\n"));
      case "files" ->
          List.of(
              new Snippet("Settings of the service", "LONGTHREAD_FILES_FOLDER=/srv/lineage\n"),
              new Snippet(
                  "Then leave events there, one a line", "cp night.ndjson /srv/lineage/\n"));
      case "wrap" ->
          List.of(
              new Snippet(
                  "Once on the machine that runs the job",
                  "export LONGTHREAD_URL=" + base + "\nexport LONGTHREAD_TOKEN=" + token + "\n"),
              new Snippet(
                  "In its crontab, in front of the command",
                  "longthread wrap --job @"
                      + name
                      + "/nightly_export --reads core.pickup --writes share/export.csv --"
                      + " /opt/export.sh\n"));
      case "java" ->
          List.of(
              new Snippet(
                  "In the program",
                  "try (Emitter emitter = Emitter.to(\""
                      + base
                      + "\", System.getenv(\"LONGTHREAD_TOKEN\"))\n        .namespace(\""
                      + name
                      + "\").start();\n    Run run = emitter.run(\"load_pickups\")\n"
                      + "        .reads(\"postgres://collect:5432/collect.public.pickup\")\n"
                      + "        .writes(\"postgres://barn:5432/barn.raw.pickup\").start()) {\n"
                      + "  run.rows(\"postgres://barn:5432/barn.raw.pickup\", load()).complete();\n}\n"),
              new Snippet("Its environment", "LONGTHREAD_TOKEN=" + token + "\n"));
      case "python" ->
          List.of(
              new Snippet(
                  "Environment of the program",
                  "OPENLINEAGE_URL=" + base + "\nOPENLINEAGE_API_KEY=" + token + "\n"),
              new Snippet(
                  "In the program, see docs/connect.md for the decorator",
                  "@makes(\"postgres://barn:5432/barn.raw.pickup\",\n"
                      + "       reads=[\"postgres://collect:5432/collect.public.pickup\"])\n"
                      + "def load_pickups():\n    …\n"));
      case "postgres" ->
          List.of(
              new Snippet(
                  "Once, from any machine that reaches the database",
                  "LONGTHREAD_URL="
                      + base
                      + " LONGTHREAD_TOKEN="
                      + token
                      + " LONGTHREAD_READ_PASSWORD=… \\\n"
                      + "  longthread read postgres --url postgres://reader@db.example:5432/"
                      + name
                      + "\n"),
              new Snippet(
                  "Every hour, by the service itself (as an administrator)",
                  "longthread read postgres --url postgres://reader@db.example:5432/"
                      + name
                      + " \\\n  --schedule "
                      + name
                      + " --every 60 --password-variable LONGTHREAD_READ_"
                      + name.toUpperCase(java.util.Locale.ROOT).replaceAll("[^A-Z0-9]", "_")
                      + "\n"),
              new Snippet(
                  "The role to read with, in the database",
                  "create role reader login password '…';\ngrant pg_read_all_stats to reader;"
                      + " -- who reads what, if pg_stat_statements is there\n"));
      case "workspace" ->
          List.of(
              new Snippet(
                  "After each refresh of the workspace",
                  "curl -X PUT "
                      + base
                      + "/api/v1/workspaces -H 'Authorization: Bearer "
                      + token
                      + "' \\\n  -H 'Content-Type: application/json' --data-binary"
                      + " @workspace.json\n"),
              new Snippet(
                  "Or by the client, with what would change first",
                  "longthread workspace diff workspace.json\nlongthread workspace put"
                      + " workspace.json\n"));
      default ->
          List.of(
              new Snippet(
                  "One link",
                  "longthread record --reads drop/readings.csv --writes raw.lab_reading \\\n"
                      + "  --reason 'copied by the lab assistant every morning'\n"),
              new Snippet(
                  "Many, as a sheet",
                  "longthread record --list --csv > recorded.csv\n"
                      + "longthread edit apply recorded.csv --dry-run\n"));
    };
  }
}
