package longthread.client;

import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Emitters;
import longthread.client.answers.TakenFiles;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Who sends events, and which files were picked up. */
final class SourceCommands {
  private static final int MAX_LISTED = 1_000;

  private SourceCommands() {}

  @Command(
      name = "emitters",
      description = "Who sends, in which version, and who is silent.",
      mixinStandardHelpOptions = true)
  static final class EmitterList extends Output implements Callable<Integer> {
    @Mixin private FailOn failOn = new FailOn();

    @Override
    public Integer call() {
      failOn.check(spec, "overdue");
      var reply =
          service().get("/api/v1/intake/emitters", Map.of("limit", MAX_LISTED), Emitters.class);
      if (json) {
        printJson(reply.json());
      } else {
        var table = new Table("NAMESPACE", "EMITTER", "VERSION", "EVENTS", "LAST EVENT", "STATE");
        for (Emitters.Emitter emitter : reply.value().emitters()) {
          table.row(
              text(emitter.namespace()),
              text(emitter.producer()),
              text(emitter.version()),
              "" + emitter.events(),
              time(emitter.lastEvent()),
              state(emitter));
        }
        print(table);
      }
      return failOn.exitCode(word -> reply.value().overdue() > 0);
    }

    private static String state(Emitters.Emitter emitter) {
      if (emitter.overdueSince() != null) {
        return "overdue since " + time(emitter.overdueSince());
      }
      return emitter.usualRest() == null ? "too few events to judge" : "on time";
    }
  }

  @Command(
      name = "files",
      description = "The files that were picked up, with how many events of each were refused.",
      mixinStandardHelpOptions = true)
  static final class FileList extends Output implements Callable<Integer> {
    @Override
    public Integer call() {
      var reply =
          service().get("/api/v1/intake/files", Map.of("limit", MAX_LISTED), TakenFiles.class);
      if (json) {
        printJson(reply.json());
        return 0;
      }
      var table = new Table("FILE", "PICKED UP", "DONE", "ACCEPTED", "REPEATED", "REFUSED");
      for (TakenFiles.TakenFile file : reply.value().files()) {
        table.row(
            file.path(),
            time(file.firstAt()),
            time(file.doneAt()),
            "" + file.accepted(),
            "" + file.duplicates(),
            "" + file.refused());
      }
      print(table);
      return 0;
    }
  }
}
