package longthread.demo;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import longthread.client.Main;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.ParameterContext;
import org.junit.jupiter.api.extension.ParameterResolver;
import picocli.CommandLine;

/** The demo world, really played once for a whole test run into a real service. */
final class DemoWorld {
  private final RunningService service;
  private final Path home;

  /** Plays the history into a service. */
  DemoWorld(RunningService service) {
    this.service = service;
    try {
      home = Files.createTempDirectory(service.shown(), "demo");
      Files.writeString(home.resolve("token"), RunningService.TOKEN);
      Files.writeString(home.resolve("password"), service.postgres().password());
      Files.writeString(home.resolve("viewer.password"), service.postgres().password());
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    service.postgres().createDatabase("barn");
    assertThat(play("history")).isZero();
    Long newest = service.jdbc().queryForObject("select max(id) from event_block", Long.class);
    service.api().see(String.valueOf(newest));
  }

  /** Plays a night in which something goes wrong, and waits until it shows. */
  void suffer(Fault fault) {
    assertThat(play("fault", fault.word())).isZero();
    Long newest = service.jdbc().queryForObject("select max(id) from event_block", Long.class);
    service.api().see(String.valueOf(newest));
  }

  int play(String what) {
    return play(what, "");
  }

  private int play(String what, String fault) {
    return new CommandLine(new Play())
        .execute(
            what,
            fault,
            "--service",
            service.base(),
            "--token-file",
            home.resolve("token").toString(),
            "--database",
            service.postgres().url("barn"),
            "--password-file",
            home.resolve("password").toString(),
            "--home",
            home.toString());
  }

  /** The BI stand-in, as its page and the command line change it. */
  Sightglass sightglass() throws IOException {
    return new Sightglass(
        home, new Emitter(service.base(), RunningService.TOKEN, home.resolve("spool")));
  }

  RunningService service() {
    return service;
  }

  /** What a command line printed, and its exit code. */
  record Said(int code, String out, String err) {}

  /** Runs the command line as a person would. */
  Said run(String... words) {
    return run(
        Map.of("LONGTHREAD_URL", service.base(), "LONGTHREAD_TOKEN", RunningService.TOKEN), words);
  }

  static Said run(Map<String, String> surroundings, String... words) {
    var out = new StringWriter();
    var err = new StringWriter();
    int code = Main.run(words, surroundings, new PrintWriter(out), new PrintWriter(err));
    return new Said(code, out.toString(), err.toString());
  }

  /** Hands the played world to tests that take it as a parameter. */
  static final class Extension implements ParameterResolver {
    private final RunningService.Extension services = new RunningService.Extension();

    @Override
    public boolean supportsParameter(ParameterContext parameter, ExtensionContext context) {
      return parameter.getParameter().getType() == DemoWorld.class;
    }

    @Override
    public Object resolveParameter(ParameterContext parameter, ExtensionContext context) {
      RunningService service = (RunningService) services.resolveParameter(parameter, context);
      return context
          .getRoot()
          .getStore(ExtensionContext.Namespace.GLOBAL)
          .getOrComputeIfAbsent(DemoWorld.class, key -> new DemoWorld(service), DemoWorld.class);
    }
  }
}
