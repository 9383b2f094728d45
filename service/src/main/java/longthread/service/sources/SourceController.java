package longthread.service.sources;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import java.util.List;
import longthread.service.web.Pages;
import longthread.service.web.PublicAddress;
import org.jspecify.annotations.Nullable;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Connections and readers over HTTP. */
@RestController
class SourceController {
  record ConnectionList(List<Connections.OpenConnection> items, @Nullable String cursor) {}

  /** What is to be connected; the name becomes that of its key. */
  record WantedConnection(@Nullable String kind, @Nullable String name) {}

  record ReaderList(List<Readers.ListedReader> items, @Nullable String cursor) {}

  private final Connections connections;
  private final Readers readers;
  private final PublicAddress address;
  private final Pages pages;

  SourceController(Connections connections, Readers readers, PublicAddress address, Pages pages) {
    this.connections = connections;
    this.readers = readers;
    this.address = address;
    this.pages = pages;
  }

  @GetMapping("/api/v1/connections")
  @Operation(
      operationId = "listConnections",
      summary = "List the ways in that are open, with last contact, errors and what they cover")
  ConnectionList connections(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Connections.OpenConnection> page = pages.page(limit, cursor, connections::all);
    return new ConnectionList(page.items(), page.cursor());
  }

  @PostMapping("/api/v1/connections")
  @Operation(
      operationId = "makeConnection",
      summary = "Get a key that can only send, and settings to paste")
  Connections.NewConnection connect(
      HttpServletRequest request, @RequestBody WantedConnection wanted) {
    return connections.make(
        wanted.kind() == null ? "" : wanted.kind(), wanted.name(), address.base(request));
  }

  @GetMapping("/api/v1/connections/key")
  @Operation(
      operationId = "watchConnection",
      summary = "Show what came by one key: its newest events, and what was refused")
  Connections.KeyProgress progress(@RequestParam String name) {
    return connections.progress(name);
  }

  @GetMapping("/api/v1/readers")
  @Operation(operationId = "listReaders", summary = "List the databases that the service reads")
  ReaderList readers(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Readers.ListedReader> page = pages.page(limit, cursor, readers::all);
    return new ReaderList(page.items(), page.cursor());
  }

  @PutMapping("/api/v1/readers")
  @Operation(operationId = "putReader", summary = "Set a database to be read at an interval")
  Readers.ListedReader put(Authentication who, @RequestBody Readers.WantedReader wanted) {
    return readers.put(who.getName(), wanted);
  }

  @PostMapping("/api/v1/readers/run")
  @Operation(operationId = "runReader", summary = "Read a database now")
  Readers.ListedReader run(@RequestParam String name) {
    return readers.readNow(name);
  }

  @DeleteMapping("/api/v1/readers")
  @Operation(operationId = "deleteReader", summary = "Read a database no more")
  void delete(@RequestParam String name) {
    readers.delete(name);
  }
}
