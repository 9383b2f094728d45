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
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;

@Command(
    name = "export",
    description = "Take a part of the graph out in an open format.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread export mart.payout_statement --as prov-json --direction upstream",
      "  longthread export 'Ten-day payout' --as openlineage --to payout.ndjson",
      "  longthread export core.farm --as dot --detail assets | dot -Tsvg > farm.svg"
    })
final class ExportCommand extends Output implements Callable<Integer> {
  private static final List<String> FORMATS =
      List.of("prov-json", "graphml", "dot", "csv", "openlineage");

  @Parameters(paramLabel = "NAME", description = "An asset, a job, or a column as asset#column.")
  private String name = "";

  private String format = "";

  @Option(
      names = "--as",
      required = true,
      paramLabel = "FORMAT",
      description = "prov-json, graphml, dot, csv or openlineage.")
  void setFormat(String format) {
    ClosedWords.check(spec, "--as", format, FORMATS);
    this.format = format;
  }

  @Option(
      names = "--direction",
      paramLabel = "WAY",
      description = "upstream, downstream or both; both without it.")
  private @Nullable String direction;

  @Option(
      names = "--hops",
      paramLabel = "N",
      description = "How far, in links; all the way without it.")
  private @Nullable Integer hops;

  @Option(
      names = "--detail",
      paramLabel = "LEVEL",
      description = "assets or columns; columns without it.")
  private @Nullable String detail;

  @Mixin private AsOf asOf = new AsOf();

  @Option(names = "--to", paramLabel = "FILE", description = "Where to write; else it is printed.")
  private @Nullable Path file;

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--direction", direction, List.of("upstream", "downstream", "both"));
    ClosedWords.check(spec, "--detail", detail, List.of("assets", "columns"));
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("as", format);
    parameters.put("direction", direction);
    parameters.put("hops", hops);
    parameters.put("detail", detail);
    asOf.addTo(parameters);
    byte[] bytes = service().bytes("/api/v1/export", parameters, "*/*");
    if (file == null) {
      out().print(new String(bytes, StandardCharsets.UTF_8));
      out().flush();
      return 0;
    }
    try {
      Files.write(file, bytes);
    } catch (IOException e) {
      throw new ParameterException(
          spec.commandLine(), "Cannot write " + file + ": " + FileWords.why(e));
    }
    note("written to " + file);
    return 0;
  }
}
