package longthread.service.lineage;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.List;
import java.util.Locale;
import javax.xml.stream.XMLStreamException;
import longthread.core.export.Dot;
import longthread.core.export.ExportedGraph;
import longthread.core.export.GraphMl;
import longthread.core.export.LineageEvents;
import longthread.core.export.ProvJson;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.Csv;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.PublicAddress;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.node.ObjectNode;

/** A part of the graph as a file in an open format. */
@RestController
class ExportController {
  private static final List<String> FORMATS =
      List.of("prov-json", "graphml", "dot", "csv", "openlineage");
  private static final List<String> DIRECTIONS = List.of("upstream", "downstream", "both");
  private static final List<String> DETAILS = List.of("assets", "columns");
  private static final List<String> HEADING =
      List.of("from", "from column", "to", "to column", "flow", "how", "masking", "by");

  private final Exports exports;
  private final References references;
  private final Receipts receipts;
  private final PublicAddress address;
  private final Clock clock;

  ExportController(
      Exports exports,
      References references,
      Receipts receipts,
      PublicAddress address,
      Clock clock) {
    this.exports = exports;
    this.references = references;
    this.receipts = receipts;
    this.address = address;
    this.clock = clock;
  }

  /** Writes the part of the graph around something; nothing is left out of it silently. */
  @GetMapping("/api/v1/export")
  @Operation(
      operationId = "export",
      summary = "Take a part of the graph out as PROV-JSON, GraphML, DOT, CSV or events",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(mediaType = "application/json", schema = @Schema(type = "object")),
                @Content(mediaType = "application/xml", schema = @Schema(type = "string")),
                @Content(mediaType = "text/vnd.graphviz", schema = @Schema(type = "string")),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string")),
                @Content(mediaType = "application/x-ndjson", schema = @Schema(type = "string"))
              }))
  void export(
      @RequestParam String ref,
      @RequestParam String as,
      @RequestParam(defaultValue = "both") String direction,
      @RequestParam(required = false) @Nullable Integer hops,
      @RequestParam(required = false) @Nullable String detail,
      @RequestParam(required = false) @Nullable String asOf,
      @RequestParam(required = false) @Nullable String after,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    receipts.awaitVisible(after);
    String format = checked("format", as, FORMATS);
    String way = checked("direction", direction, DIRECTIONS);
    String level = checked("detail level", detail == null ? "columns" : detail, DETAILS);
    if (hops != null && hops < 0) {
      throw ProblemException.badRequest("bad-hops", "hops takes a number from 0 up");
    }
    References.Named focus = references.resolve(ref);
    ExportedGraph whole =
        exports.of(
            new Exports.Part(
                focus,
                !way.equals("downstream"),
                !way.equals("upstream"),
                hops == null ? Integer.MAX_VALUE : hops,
                asOf == null ? null : Times.parse(asOf)));
    // Events without columns would say that nothing is known of them.
    boolean byColumns = level.equals("columns") || format.equals("openlineage");
    ExportedGraph graph = byColumns ? whole : whole.withoutColumns();
    String base = address.base(request) + "/";
    String name = "lineage-" + focus.ref().replaceAll("[^A-Za-z0-9._-]+", "_");
    switch (format) {
      case "csv" ->
          Csv.send(
              response, name + ".csv", HEADING, Pages.made(graph.links(), ExportController::row));
      case "dot" ->
          send(response, name + ".dot", "text/vnd.graphviz", out -> Dot.write(graph, out));
      case "graphml" ->
          send(response, name + ".graphml", "application/xml", out -> writeXml(graph, out));
      case "prov-json" ->
          send(
              response,
              name + ".prov.json",
              "application/json",
              out -> out.append(CanonicalJson.MAPPER.writeValueAsString(ProvJson.of(graph, base))));
      default ->
          send(
              response,
              name + ".ndjson",
              "application/x-ndjson",
              out -> {
                for (ObjectNode event : LineageEvents.of(graph, base, clock.instant())) {
                  out.append(CanonicalJson.MAPPER.writeValueAsString(event)).append('\n');
                }
              });
    }
  }

  private static String checked(String what, String word, List<String> words) {
    String lower = word.toLowerCase(Locale.ROOT);
    if (!words.contains(lower)) {
      throw ProblemException.badRequest(
          "unknown-word", "'" + word + "' is no " + what + "; use " + String.join(", ", words));
    }
    return lower;
  }

  private static List<String> row(ExportedGraph.Link link) {
    return List.of(
        link.from(),
        link.fromColumn(),
        link.to(),
        link.toColumn(),
        link.flow().name(),
        link.flow().words(),
        link.masking() ? "yes" : "no",
        link.maker());
  }

  private static void writeXml(ExportedGraph graph, Writer out) throws IOException {
    try {
      GraphMl.write(graph, out);
    } catch (XMLStreamException e) {
      throw new IOException(e);
    }
  }

  /** Writes what a file has. */
  private interface Body {
    void write(Writer out) throws IOException;
  }

  private static void send(HttpServletResponse response, String file, String type, Body body)
      throws IOException {
    response.setContentType(type + ";charset=UTF-8");
    response.setHeader(HttpHeaders.CONTENT_DISPOSITION, "attachment; filename=\"" + file + "\"");
    try (var out = new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8)) {
      body.write(out);
    }
  }
}
