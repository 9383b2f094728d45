package longthread.demo;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.UUID;

/**
 * The notebook engine of the cellar team. Its listener sends what listeners of real engines do: a
 * member twice, jobs that only read or only write, fields of structs, projections as schemas, names
 * by path and by alias, several statements under one job name, and events without a state.
 */
final class Curdworks {
  private static final String LAKE = "s3://hollinvale-cellar";
  private static final String DATABASE = "postgres://ripening-db.hollinvale.example:5432";

  private final Emitter emitter;

  Curdworks(Emitter emitter) {
    this.emitter = emitter;
  }

  /** One night of the cellar's notebooks, from a moment on. */
  void run(Instant at) {
    ingest(at);
    climate(at.plusSeconds(60));
    export(at.plusSeconds(120));
    upkeep(at.plusSeconds(180));
    lifeCycles(at.plusSeconds(240));
    oddEvents(at.plusSeconds(300));
  }

  /** Only writes; the engine's own facet stands in the event twice. */
  private void ingest(Instant at) {
    send(
        at,
        "COMPLETE",
        "ingest_batches",
        "",
        "",
        "'outputs':["
            + batches(
                "'schema':{'fields':[{'name':'batch_id','type':'int'},{'name':'kg','type':'decimal'},"
                    + "{'name':'climate','type':'struct','fields':[{'name':'temperature_c'},"
                    + "{'name':'humidity_pct'}]},{'name':'../shelf','type':'text'}]},"
                    + "'symlinks':{'identifiers':[{'namespace':'"
                    + DATABASE
                    + "','name':'ripening.public.cheese_batch','type':'TABLE'}]}")
            + "]");
  }

  /** Reads a field of a struct and the struct itself, through a projection. */
  private void climate(Instant at) {
    String projection =
        "'schema':{'fields':[{'name':'climate'},{'name':'_metadata_file','type':'text'}]}";
    String map =
        "'schema':{'fields':[{'name':'temperature_c'},{'name':'climate'}]},'columnLineage':{'fields':{"
            + field("temperature_c", "climate.temperature_c", "IDENTITY")
            + ","
            + field("climate", "climate", "IDENTITY")
            + "}}";
    send(
        at,
        "COMPLETE",
        "fold_climate",
        "",
        "",
        "'inputs':["
            + batches(projection)
            + "],'outputs':["
            + dataset(LAKE, "climate_daily", map)
            + "]");
  }

  private static String field(String column, String source, String subtype) {
    return "'"
        + column
        + "':{'inputFields':[{'namespace':'"
        + LAKE
        + "','name':'cheese_batch','field':'"
        + source
        + "','transformations':[{'type':'DIRECT','subtype':'"
        + subtype
        + "'}]}]}";
  }

  /** Only reads: a mail to the cellar masters. */
  private void export(Instant at) {
    send(
        at,
        "COMPLETE",
        "mail_overripe",
        "",
        "'sql':{'query':'select batch_id, kg from cheese_batch where kg > 1200'}",
        "'inputs':[" + batches("") + "]");
  }

  /** Three statements of one night under one name. */
  private void upkeep(Instant at) {
    String[] statements = {
      "merge into cellar.shelf_plan p using cellar.shelf_change c on p.shelf = c.shelf"
          + " when matched then update set batch_id = c.batch_id",
      "update cellar.shelf_plan set turned_on = t.turned_on from cellar.turning_day t"
          + " where cellar.shelf_plan.shelf = t.shelf",
      "delete from cellar.shelf_plan where shelf in (select shelf from cellar.closed_shelf)",
    };
    for (int i = 0; i < statements.length; i++) {
      send(
          at.plusSeconds(10L * i),
          "COMPLETE",
          "keep_shelf_plan",
          "",
          "'sql':{'query':'" + statements[i] + "'}",
          "'outputs':["
              + dataset(
                  DATABASE,
                  "ripening.cellar.shelf_plan",
                  "'schema':{'fields':[{'name':'shelf'},{'name':'batch_id'},{'name':'turned_on'}]}")
              + "]");
    }
  }

  private void lifeCycles(Instant at) {
    String scratch =
        "'symlinks':{'identifiers':[{'namespace':'"
            + DATABASE
            + "','name':'ripening.cellar.scratch','type':'TABLE'}]}";
    send(
        at,
        "COMPLETE",
        "tidy_up",
        "",
        "",
        "'outputs':["
            + dataset(LAKE, "scratch", "'schema':{'fields':[{'name':'x'}]}," + scratch)
            + "]");
    send(
        at.plusSeconds(10),
        "COMPLETE",
        "tidy_up",
        "",
        "",
        "'outputs':["
            + dataset(
                LAKE,
                "scratch",
                scratch + ",'lifecycleStateChange':{'lifecycleStateChange':'DROP'}")
            + "]");
    send(
        at.plusSeconds(20),
        "COMPLETE",
        "rename_turning",
        "",
        "",
        "'outputs':["
            + dataset(
                LAKE,
                "turning_log",
                "'schema':{'fields':[{'name':'batch_id'},{'name':'side'}]},"
                    + "'lifecycleStateChange':{'lifecycleStateChange':'RENAME','previousIdentifier':{"
                    + "'namespace':'"
                    + LAKE
                    + "','name':'turning'}}")
            + "]");
  }

  private void oddEvents(Instant at) {
    // A state that the engine does not say, from a run whose parent never reports.
    send(
        at,
        "OTHER",
        "profile_batches",
        "'parent':{'run':{'runId':'"
            + id("notebook" + at)
            + "'},'job':{'namespace':'curdworks','name':'cellar_notebook'}}",
        "'lineage':{'entries':[{'type':'JOB','namespace':'curdworks','name':'profile_batches',"
            + "'inputs':[{'type':'JOB','namespace':'curdworks','name':'ingest_batches'}]}]}",
        "'inputs':[{'namespace':'"
            + LAKE
            + "','name':'cheese_batch','inputFacets':{'icebergScanReport':{'snapshotId':4711}}}]");
    // A notebook server whose clock is wrong.
    send(Instant.parse("2099-12-31T00:00:00Z"), "COMPLETE", "wrong_clock", "", "", "'inputs':[]");
  }

  private static String batches(String facets) {
    return dataset(LAKE, "cheese_batch", facets);
  }

  private static String dataset(String namespace, String name, String facets) {
    String system = namespace.equals(LAKE) ? "cellar lake" : "ripening-db";
    return "{'namespace':'"
        + namespace
        + "','name':'"
        + name
        + "','facets':{'dataSource':{'name':'"
        + system
        + "'}"
        + (facets.isEmpty() ? "" : "," + facets)
        + "}}";
  }

  private static UUID id(String seed) {
    return UUID.nameUUIDFromBytes(seed.getBytes(StandardCharsets.UTF_8));
  }

  private void send(
      Instant at, String type, String job, String runFacets, String jobFacets, String lists) {
    String engine = "'processing_engine':{'name':'curdworks','version':'4.1'}";
    emitter.send(
        ("{'eventTime':'"
                + at.atOffset(ZoneOffset.UTC)
                + "','producer':'https://hollinvale.example/curdworks/4.1',"
                + "'schemaURL':'https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/RunEvent',"
                + "'eventType':'"
                + type
                + "','run':{'runId':'"
                + id(job + at)
                + "','facets':{"
                + engine
                + ","
                + (runFacets.isEmpty() ? "" : runFacets + ",")
                + (job.equals("ingest_batches") ? engine : "'spent':{}")
                + "}},'job':{'namespace':'curdworks','name':'"
                + job
                + "','facets':{"
                + jobFacets
                + "}},"
                + lists
                + "}")
            .replace('\'', '"'));
  }
}
