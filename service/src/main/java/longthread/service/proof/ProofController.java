package longthread.service.proof;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.ProblemException;
import longthread.service.web.PublicAddress;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.core.JacksonException;
import tools.jackson.core.StreamReadFeature;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/** Proofs over HTTP. */
@RestController
class ProofController {
  private static final List<String> FORMATS = List.of("json", "prov-json", "html");

  private final Proofs proofs;
  private final References references;
  private final Receipts receipts;
  private final PublicAddress address;
  private final Clock clock;

  ProofController(
      Proofs proofs, References references, Receipts receipts, PublicAddress address, Clock clock) {
    this.proofs = proofs;
    this.references = references;
    this.receipts = receipts;
    this.address = address;
    this.clock = clock;
  }

  @GetMapping("/api/v1/proof")
  @Operation(
      operationId = "getProof",
      summary = "Prove what was behind a figure at a moment: signed, as JSON, PROV-JSON or a page",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(mediaType = "application/json", schema = @Schema(type = "object")),
                @Content(mediaType = "text/html", schema = @Schema(type = "string"))
              }))
  void proof(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable String asOf,
      @RequestParam(defaultValue = "json") String as,
      @RequestParam(required = false) @Nullable String after,
      Principal who,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    receipts.awaitVisible(after);
    if (!FORMATS.contains(as)) {
      throw ProblemException.badRequest(
          "bad-format", "'" + as + "' is not a form of a proof; use " + String.join(", ", FORMATS));
    }
    References.Named named = references.resolve(ref);
    Instant at = asOf == null ? clock.instant() : Times.parse(asOf);
    ObjectNode proof = proofs.of(named, at, who.getName());
    String name = "proof-" + named.ref().replaceAll("[^A-Za-z0-9._-]+", "_");
    switch (as) {
      case "html" -> send(response, name + ".html", "text/html", ProofPage.of(proof));
      case "prov-json" ->
          send(
              response,
              name + ".prov.json",
              "application/json",
              pretty(ProofProv.of(proof, address.base(request) + "/")));
      default -> send(response, name + ".json", "application/json", pretty(proof));
    }
  }

  /** A member that stands twice could be read in two ways, so such a document proves nothing. */
  private static ObjectNode strict(byte[] document) {
    try {
      JsonNode read =
          CanonicalJson.MAPPER
              .reader()
              .with(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
              .with(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
              .readTree(document);
      if (read instanceof ObjectNode proof) {
        return proof;
      }
    } catch (JacksonException e) {
      throw ProblemException.badRequest(
          "bad-proof",
          "the document is not JSON with each member once; send a proof as GET /api/v1/proof made it");
    }
    throw ProblemException.badRequest(
        "bad-proof", "the document is not an object; send a proof as GET /api/v1/proof made it");
  }

  private static String pretty(ObjectNode document) {
    return CanonicalJson.MAPPER.writerWithDefaultPrettyPrinter().writeValueAsString(document);
  }

  /** A page is shown, a document saved. */
  private static void send(HttpServletResponse response, String file, String type, String text)
      throws IOException {
    response.setContentType(type + ";charset=UTF-8");
    String how = type.equals("text/html") ? "inline" : "attachment";
    response.setHeader(HttpHeaders.CONTENT_DISPOSITION, how + "; filename=\"" + file + "\"");
    response.getOutputStream().write(text.getBytes(StandardCharsets.UTF_8));
  }

  @PostMapping("/api/v1/proof/check")
  @Operation(
      operationId = "checkProof",
      summary = "Check a proof: its digest, its signature, and its events against the log")
  Proofs.Checked check(
      @io.swagger.v3.oas.annotations.parameters.RequestBody(
              description = "A proof as GET /api/v1/proof made it",
              content = @Content(mediaType = "application/json", schema = @Schema(type = "object")))
          @RequestBody
          byte[] proof) {
    return proofs.check(strict(proof));
  }
}
