package longthread.service.testing;

import java.lang.annotation.Annotation;
import java.nio.file.Path;
import java.util.Map;
import longthread.service.Service;
import longthread.service.live.GraphFollower;
import longthread.service.log.RecentDigests;
import longthread.service.rebuild.CatalogDump;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.ParameterContext;
import org.junit.jupiter.api.extension.ParameterResolver;
import org.springframework.boot.WebApplicationType;
import org.springframework.boot.builder.SpringApplicationBuilder;
import org.springframework.context.ConfigurableApplicationContext;
import org.springframework.dao.PessimisticLockingFailureException;
import org.springframework.jdbc.core.JdbcTemplate;

/**
 * The real application on loopback with a real PostgreSQL, started once for a whole test run and
 * handed to tests as a parameter.
 */
public final class RunningService implements AutoCloseable {
  public static final String TOKEN = "lt_test-admin";
  public static final String PASSWORD = "test-password";

  private final TestPostgres postgres = new TestPostgres();
  private final int healthPort = FreePort.next();
  private final Path secrets = temporaryFolder();
  private final Receiver receiver = new Receiver();
  private final ConfigurableApplicationContext context;

  private RunningService(String... more) {
    postgres.createDatabase("longthread");
    var arguments =
        new java.util.ArrayList<>(
            java.util.List.of(
                "--server.port=0",
                "--spring.datasource.url=" + postgres.url("longthread"),
                "--spring.datasource.username=longthread",
                "--spring.datasource.password=" + postgres.password(),
                "--LONGTHREAD_ADMIN_TOKEN=" + TOKEN,
                "--LONGTHREAD_ADMIN_PASSWORD=" + PASSWORD,
                "--longthread.intake.largest-event=2000000",
                "--longthread.health-port=" + healthPort,
                "--longthread.header-time=3s",
                "--longthread.readers.secrets=" + secrets,
                "--longthread.preview.folders=" + secrets.resolve("shown"),
                "--longthread.preview.hosts=127.0.0.1",
                "--longthread.outgoing.allowed=127.0.0.1",
                "--longthread.mail.domains=hollinvale.example,example.org",
                "--longthread.preview.sample-every=PT24H",
                "--LONGTHREAD_PREVIEW_PASSWORD=" + postgres.password(),
                "--longthread.watch.settle=0s",
                "--longthread.tickets.url=" + receiver.address("/tickets"),
                "--longthread.smtp.url=smtp://127.0.0.1:" + receiver.smtpPort(),
                "--spring.jpa.hibernate.ddl-auto=validate",
                "--spring.jpa.properties.hibernate.session_factory.statement_inspector="
                    + StatementCount.class.getName()));
    arguments.addAll(java.util.List.of(more));
    context =
        new SpringApplicationBuilder(Service.class)
            .web(WebApplicationType.SERVLET)
            .run(arguments.toArray(String[]::new));
  }

  /** One more service with further settings, each as {@code --name=value}. */
  public static RunningService with(String... settings) {
    return new RunningService(settings);
  }

  /** One more service with a database of its own, for tests that change the whole world. */
  public static RunningService another() {
    return new RunningService();
  }

  private static Path temporaryFolder() {
    try {
      return java.nio.file.Files.createTempDirectory("longthread-secrets");
    } catch (java.io.IOException e) {
      throw new java.io.UncheckedIOException(e);
    }
  }

  /** What takes the service's webhooks, tickets and mail. */
  public Receiver receiver() {
    return receiver;
  }

  /** A folder of which the service may show files. */
  public Path shown() {
    try {
      return java.nio.file.Files.createDirectories(secrets.resolve("shown"));
    } catch (java.io.IOException e) {
      throw new java.io.UncheckedIOException(e);
    }
  }

  /** The service's folder of secrets. */
  public Path secrets() {
    return secrets;
  }

  /** Where state and metrics have threads of their own. */
  public String healthBase() {
    return "http://127.0.0.1:" + healthPort;
  }

  public String base() {
    return "http://127.0.0.1:" + context.getEnvironment().getProperty("local.server.port");
  }

  /** The interface with everything allowed. */
  public Api api() {
    return new Api(base(), TOKEN);
  }

  public TestPostgres postgres() {
    return postgres;
  }

  public JdbcTemplate jdbc() {
    return context.getBean(JdbcTemplate.class);
  }

  /** A bean of the running service. */
  public <T> T bean(Class<T> type) {
    return context.getBean(type);
  }

  /** The beans with an annotation, by name. */
  public Map<String, Object> beans(Class<? extends Annotation> annotation) {
    return context.getBeansWithAnnotation(annotation);
  }

  public String dump() {
    return context.getBean(CatalogDump.class).text();
  }

  private static final int TRIES = 5;
  private static final String EVERYTHING =
      "truncate event_block, event_seen, refused_event, recent_event, facet, facet_now,"
          + " facet_body, run_facet, shape, run_shape, declared, described, run,"
          + " check_result, link_row, link_span, job_version, job_map, card, graph_change, renamed,"
          + " pending_sql, statement, key_use, source_reader, coverage_day, dataset, job, emitter, emitter_minute, emitter_hour, taken_file, preview_source, value_sample,"
          + " watch, watch_cause, delivery, planned_answer, planned_change, share_link, ticket, trail_step, trail_sharing";

  /** Empties log and catalog, as if the service were new; keys and accounts stay. */
  public void forgetEverything() {
    for (int left = TRIES; ; left--) {
      try {
        jdbc().execute(EVERYTHING);
        break;
      } catch (PessimisticLockingFailureException e) {
        // work in the background took its locks in another order
        if (left == 0) {
          throw e;
        }
      }
    }
    jdbc().execute("update intake_count set received = 0, applied = 0, duplicates = 0");
    context.getBean(RecentDigests.class).clear();
    // whoever applies next finds another's mark and drops what it remembers
    jdbc().execute("update graph_head set applier = null");
    jdbc().execute("update graph_head set number = number + 1000");
    context.getBean(GraphFollower.class).follow();
  }

  @Override
  public void close() {
    context.close();
    receiver.close();
    postgres.close();
  }

  /** The folder of the checkout, from which module soever the tests run. */
  public static Path checkout() {
    Path here = Path.of("").toAbsolutePath();
    return here.resolve("longthread").toFile().isFile() ? here : here.getParent();
  }

  /** Hands the running service to tests that take it as a parameter. */
  public static final class Extension implements ParameterResolver {
    private record Held(RunningService service)
        implements ExtensionContext.Store.CloseableResource {
      @Override
      public void close() {
        service.close();
      }
    }

    @Override
    public boolean supportsParameter(ParameterContext parameter, ExtensionContext context) {
      return parameter.getParameter().getType() == RunningService.class;
    }

    @Override
    public Object resolveParameter(ParameterContext parameter, ExtensionContext context) {
      return context
          .getRoot()
          .getStore(ExtensionContext.Namespace.GLOBAL)
          .getOrComputeIfAbsent(Held.class, key -> new Held(new RunningService()), Held.class)
          .service();
    }
  }
}
