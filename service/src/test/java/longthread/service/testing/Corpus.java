package longthread.service.testing;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.UUID;

/**
 * Events made up at random out of few names and few moments, so that everything meets everything:
 * all facets, conflicting values at one moment, lifecycles, renames, parents, far-future times.
 */
public final class Corpus {
  private static final String[] TYPES = {"START", "RUNNING", "COMPLETE", "FAIL", "ABORT", "OTHER"};
  private static final Instant START = Instant.parse("2026-03-01T00:00:00Z");

  private final Random random;
  private final String mark;

  private Corpus(long seed) {
    random = new Random(seed);
    mark = "c" + seed;
  }

  /** Returns so many events; the same for the same seed. */
  public static List<String> events(long seed, int count) {
    var corpus = new Corpus(seed);
    var events = new ArrayList<String>();
    for (int i = 0; i < count; i++) {
      events.add(corpus.event(i).replace('\'', '"'));
    }
    return events;
  }

  private String event(int number) {
    // Engines send members twice; of those the last value counts.
    String rest =
        ",'number':" + number + (random.nextInt(10) == 0 ? ",'number':" + number : "") + "}";
    return switch (random.nextInt(8)) {
      case 0 -> head() + ",'job':" + job() + lists(false) + rest;
      case 1 -> head() + ",'dataset':" + dataset(true, "") + rest;
      default ->
          head()
              + (random.nextInt(12) == 0 ? "" : ",'eventType':'" + pick(TYPES) + "'")
              + ",'run':{'runId':'"
              + run()
              + "','facets':{"
              + runFacets()
              + "}},'job':"
              + job()
              + lists(true)
              + rest;
    };
  }

  private String head() {
    // Few moments, some of them equal and some finer than a microsecond; one in forty far ahead.
    Instant at =
        random.nextInt(40) == 0
            ? Instant.parse("2999-01-01T00:00:00Z")
            : START.plusSeconds(86_400L * random.nextInt(40)).plusNanos(random.nextInt(3));
    return "{'eventTime':'"
        + at
        + "','producer':'https://emitter.example/"
        + random.nextInt(3)
        + "','schemaURL':'https://x.example/s'";
  }

  private String pick(String... choices) {
    return choices[random.nextInt(choices.length)];
  }

  private UUID run() {
    return new UUID(mark.hashCode(), random.nextInt(20));
  }

  private String jobName() {
    return pick("load", "clean", "mart.daily", "mart.weekly", "mart");
  }

  private String job() {
    var facets = new ArrayList<String>();
    some(facets, "'sql':{'query':'" + sql() + "'}");
    some(
        facets,
        "'jobType':{'processingType':'" + pick("BATCH", "STREAMING") + "','integration':'X'}");
    some(facets, "'ownership':{'owners':[{'name':'team:" + random.nextInt(3) + "'}]}");
    some(facets, "'documentation':{'description':'words " + random.nextInt(3) + "'}");
    some(facets, "'sourceCodeLocation':{'type':'git','url':'https://g.example','version':'v'}");
    if (random.nextInt(10) == 0) {
      facets.add(
          "'lineage':{'entries':[{'type':'DATASET',"
              + name()
              + ",'inputs':["
              + source(false)
              + ",{'type':'JOB','namespace':'"
              + mark
              + "','name':'"
              + jobName()
              + "'}],'fields':{'a':{'inputs':["
              + source(true)
              + "]}}}]}");
    }
    return "{'namespace':'"
        + mark
        + "','name':'"
        + jobName()
        + "','facets':{"
        + String.join(",", facets)
        + "}}";
  }

  /** Texts over the datasets of the corpus; two differ only in what a fingerprint leaves out. */
  private String sql() {
    return pick(
        "select 1",
        "insert into t select * from u",
        "insert into sqlfirst.one select * from sqlfirst.two",
        "merge into v using sqlfirst.two w on v.a = w.a when matched then update set b = w.b",
        "update v set b = (select max(a) from w)",
        "delete from v where a in (select a from sqlfirst.one)",
        "select a, b from w where s > 1",
        "insert into v (a, b) select a, \\u0027K\\u0027 from w where b > 1",
        "insert into v (a, b) select a, \\u0027k\\u0027 from w where B > 1",
        "delete from t; insert into t (a) select max(x.a) from (select * from v) x join w using (b)",
        "selec nonsense from t");
  }

  private void some(List<String> facets, String facet) {
    if (random.nextInt(3) == 0) {
      facets.add(facet);
    }
  }

  private String runFacets() {
    var facets = new ArrayList<String>();
    some(
        facets,
        "'parent':{'run':{'runId':'"
            + run()
            + "'},'job':{'namespace':'"
            + mark
            + "','name':'"
            + jobName()
            + "'},'root':{'run':{'runId':'"
            + run()
            + "'},'job':{'namespace':'"
            + mark
            + "','name':'mart'}}}");
    some(
        facets,
        "'nominalTime':{'nominalStartTime':'2026-03-0" + (1 + random.nextInt(9)) + "T00:00:00Z'}");
    some(
        facets,
        "'errorMessage':{'message':'broke " + random.nextInt(3) + "','programmingLanguage':'x'}");
    some(facets, "'processing_engine':{'version':'" + random.nextInt(3) + "','name':'e'}");
    some(facets, "'processing_engine':{'version':'" + random.nextInt(3) + "','name':'f'}");
    if (random.nextInt(8) == 0) {
      facets.add("'extractionError':{'totalTasks':3,'failedTasks':1,'errors':[]}");
    }
    if (random.nextInt(6) == 0) {
      facets.add(
          "'jobDependencies':{'upstream':[{'job':{'namespace':'"
              + mark
              + "','name':'"
              + jobName()
              + "'}}]}");
    }
    if (random.nextInt(4) == 0) {
      facets.add(
          "'test':{'tests':[{'name':'t"
              + random.nextInt(3)
              + "','status':'"
              + pick("pass", "fail", "skip")
              + "','content':'select 1'}]}");
    }
    some(facets, "'acme_custom':{'message':'m" + random.nextInt(3) + "'}");
    return String.join(",", facets);
  }

  private String lists(boolean run) {
    var text = new StringBuilder();
    for (String list : new String[] {"inputs", "outputs"}) {
      if (random.nextInt(5) == 0) {
        continue;
      }
      var parts = new ArrayList<String>();
      for (int i = random.nextInt(3); i >= 0; i--) {
        parts.add(dataset(list.equals("outputs"), run ? partFacets(list) : ""));
      }
      if (random.nextInt(12) == 0) {
        parts.clear(); // an export or a check only reads, an ingest only writes
      }
      text.append(",'").append(list).append("':[").append(String.join(",", parts)).append("]");
    }
    return text.toString();
  }

  private String partFacets(String list) {
    var facets = new ArrayList<String>();
    boolean output = list.equals("outputs");
    some(
        facets,
        (output ? "'outputStatistics'" : "'inputStatistics'")
            + ":{'rowCount':"
            + random.nextInt(5)
            + ",'size':1.5e3}");
    if (!output) {
      some(
          facets,
          "'dataQualityAssertions':{'assertions':[{'assertion':'not_null','column':'a','success':"
              + random.nextBoolean()
              + "}]}");
    }
    some(
        facets,
        (output ? "'outputSubset':{'outputCondition'" : "'subset':{'inputCondition'")
            + ":{'type':'location','locations':['x']}}");
    return ",'"
        + (output ? "outputFacets" : "inputFacets")
        + "':{"
        + String.join(",", facets)
        + "}";
  }

  private String name() {
    String name =
        random.nextInt(9) == 0
            ? pick("sqlfirst.one", "sqlfirst.two", "aliased", "mapped", "a b ", "é")
            : pick("t", "u", "v", "w", "raw/day=2026-03-0" + (1 + random.nextInt(4)), "dot.ted");
    return "'namespace':'postgres://" + pick("H", "h") + mark + ":5432','name':'" + name + "'";
  }

  private String source(boolean field) {
    return "{'type':'DATASET',"
        + name()
        + (field ? ",'field':'" + pick("a", "b", "s", "s.x", "s.x.y", ".", "..", "") + "'" : "")
        + (random.nextInt(3) == 0
            ? ""
            : ",'transformations':[{'type':'"
                + pick("DIRECT", "INDIRECT")
                + "','subtype':'"
                + pick("IDENTITY", "AGGREGATION", "FILTER", "JOIN", "CONDITIONAL", "")
                + "'}]")
        + "}";
  }

  private String dataset(boolean output, String more) {
    var facets = new ArrayList<String>();
    some(
        facets,
        "'schema':{'fields':["
            + pick(
                "",
                "{'name':'a','type':'int'}",
                "{'name':'a','type':'int'},{'name':'s','fields':[{'name':'x'}]}",
                "{'name':'s.x','type':'text'},{'name':'b'}",
                "{'name':'b'},{'name':'s','fields':[{'name':'x','fields':[{'name':'y'}]}]}",
                "{'name':'_file'},{'name':'b','type':'int'}")
            + "]}");
    if (random.nextInt(15) == 0) {
      facets.clear();
      facets.add("'schema':{'_deleted':true}");
    }
    if (output && random.nextInt(2) == 0) {
      facets.add(
          "'columnLineage':{'fields':{'a':{'inputFields':["
              + source(true)
              + "]},'b':{'inputFields':[]}},'dataset':["
              + source(true)
              + "]}");
    }
    if (random.nextInt(8) == 0) {
      facets.add(
          "'lineage':{'inputs':["
              + source(false)
              + "],'fields':{'a':{'inputs':["
              + source(true)
              + "]}}}");
    }
    if (random.nextInt(10) == 0) {
      facets.add("'symlinks':{'identifiers':[{" + name() + ",'type':'TABLE'}]}");
    }
    if (random.nextInt(7) == 0) {
      String word = pick("CREATE", "DROP", "OVERWRITE", "TRUNCATE", "ALTER", "RENAME");
      facets.add(
          "'lifecycleStateChange':{'lifecycleStateChange':'"
              + word
              + "'"
              + (word.equals("RENAME") ? ",'previousIdentifier':{" + name() + "}" : "")
              + "}");
    }
    if (random.nextInt(12) == 0) {
      facets.add(
          "'longthread_view':{'query':'" + pick("select * from u", "select a from w") + "'}");
    }
    some(facets, "'ownership':{'owners':[{'name':'user:" + random.nextInt(3) + "'}]}");
    some(facets, "'tags':{'tags':[{'key':'k','value':'" + random.nextInt(2) + "','field':'a'}]}");
    some(facets, "'version':{'datasetVersion':'" + random.nextInt(3) + "'}");
    some(facets, "'storage':{'storageLayer':'s','fileFormat':'parquet'}");
    some(facets, "'acme_thing':{'deep':{'b':1.50,'a':[1,{}]}}");
    return "{" + name() + ",'facets':{" + String.join(",", facets) + "}" + more + "}";
  }
}
