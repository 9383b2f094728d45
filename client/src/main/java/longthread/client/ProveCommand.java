package longthread.client;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import tools.jackson.core.JacksonException;
import tools.jackson.core.StreamReadFeature;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

@Command(
    name = "prove",
    description = "Prove what was behind a figure at a moment, or check such a proof.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread prove 'Ten-day payout' --at 2031-10-31 --as html --to payout.html",
      "  longthread prove mart.payout_statement#amount --at 2031-10-31T12:00:00Z > payout.json",
      "  longthread prove --check payout.json"
    })
final class ProveCommand extends Output implements Callable<Integer> {
  @Parameters(
      arity = "0..1",
      paramLabel = "NAME",
      description = "A dataset, report or column, as asset#column.")
  private @Nullable String name;

  @Option(
      names = "--at",
      paramLabel = "TIME",
      description = "As it stood then: 2031-10-31T12:00:00Z, or a day, at its end; now without it.")
  private @Nullable String at;

  @Option(
      names = "--as",
      paramLabel = "FORM",
      description = "json (it can be checked later), prov-json, or html (a page that prints well).")
  private @Nullable String form;

  @Option(
      names = "--to",
      paramLabel = "FILE",
      description = "Write it to this file; to the terminal without it.")
  private @Nullable Path to;

  @Option(
      names = "--check",
      paramLabel = "FILE",
      description = "Check a proof: was it altered, who signed it, are its events in the log?")
  private @Nullable Path check;

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--as", form, List.of("json", "prov-json", "html"));
    if ((name == null) == (check == null)) {
      throw new ParameterException(
          spec.commandLine(), "name what to prove, or give a proof with --check, not both");
    }
    if (check != null) {
      return check(check);
    }
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("asOf", Json.until(at));
    parameters.put("as", form);
    byte[] document = service().bytes("/api/v1/proof", parameters, "*/*");
    if (to == null) {
      out().print(new String(document, StandardCharsets.UTF_8));
      out().flush();
    } else {
      try {
        Files.write(to, document);
      } catch (IOException e) {
        throw new ParameterException(
            spec.commandLine(), "Cannot write " + to + ": " + FileWords.why(e));
      }
      note("written to " + to);
    }
    return 0;
  }

  private JsonNode proof(Path file) {
    try {
      return JsonMapper.builder()
          .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION) // else one of two members counts
          .build()
          .readTree(Files.readString(file));
    } catch (IOException | JacksonException e) {
      throw new ParameterException(
          spec.commandLine(),
          file + " is not a proof as 'longthread prove NAME --as json' writes it");
    }
  }

  private int check(Path file) {
    JsonNode found = service().post("/api/v1/proof/check", proof(file), JsonNode.class).json();
    boolean valid = found.path("valid").booleanValue();
    if (json) {
      printJson(found);
    } else {
      out().println(valid ? "valid" : "NOT VALID");
      found.path("problems").forEach(problem -> out().println("  " + problem.stringValue("")));
      out()
          .println(
              "signature "
                  + ClosedWords.spoken(found.path("signature").stringValue(""))
                  + "; of "
                  + found.path("events").intValue()
                  + " events "
                  + found.path("found").intValue()
                  + " are in the log as listed, "
                  + found.path("aged").intValue()
                  + " known by digest alone, "
                  + found.path("missing").size()
                  + " missing");
      if (!found.path("differences").isEmpty()) {
        out().println("Known since it was made:");
        found.path("differences").forEach(one -> out().println("  " + one.stringValue("")));
      }
    }
    return valid ? 0 : ServiceException.FINDING;
  }
}
