package longthread.service.tickets;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import java.util.List;
import longthread.service.live.References;
import longthread.service.web.Pages;
import longthread.service.web.PublicAddress;
import org.jspecify.annotations.Nullable;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Tickets over HTTP. */
@RestController
class TicketController {
  record TicketList(List<Tickets.ListedTicket> items, @Nullable String cursor) {}

  /**
   * That a ticket was closed.
   *
   * @param outcome in a few words
   */
  record ClosedTicket(String id, @Nullable String outcome) {}

  private final Tickets tickets;
  private final References references;
  private final PublicAddress address;
  private final Pages pages;

  TicketController(Tickets tickets, References references, PublicAddress address, Pages pages) {
    this.tickets = tickets;
    this.references = references;
    this.address = address;
    this.pages = pages;
  }

  @GetMapping("/api/v1/tickets")
  @Operation(operationId = "listTickets", summary = "List the tickets that were opened from here")
  TicketList list(
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    String about = ref == null ? null : references.resolve(ref).asset().ref();
    Pages.Page<Tickets.ListedTicket> page =
        pages.page(
            limit,
            cursor,
            () ->
                tickets.all().stream()
                    .filter(ticket -> about == null || ticket.ref().startsWith(about))
                    .toList());
    return new TicketList(page.items(), page.cursor());
  }

  @PostMapping("/api/v1/tickets")
  @Operation(
      operationId = "openTicket",
      summary = "Open a ticket from a suspect or notice, with all that is known of it")
  Tickets.ListedTicket open(
      HttpServletRequest request, Authentication who, @RequestBody Tickets.NewTicket wanted) {
    return tickets.open(who.getName(), wanted, address.base(request));
  }

  @PostMapping("/api/v1/tickets/closed")
  @Operation(operationId = "closeTicket", summary = "Report that a ticket was closed")
  Tickets.ListedTicket close(@RequestBody ClosedTicket closed) {
    return tickets.close(
        closed.id() == null ? "" : closed.id(), closed.outcome() == null ? "" : closed.outcome());
  }
}
