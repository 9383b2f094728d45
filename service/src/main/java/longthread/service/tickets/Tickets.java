package longthread.service.tickets;

import java.io.IOException;
import java.net.URI;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import longthread.core.asset.Card;
import longthread.core.cause.Symptom;
import longthread.core.json.CanonicalJson;
import longthread.service.cause.CauseFinder;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.notices.Notice;
import longthread.service.notices.NoticeBoard;
import longthread.service.outgoing.OutgoingCalls;
import longthread.service.storage.sharing.SharingQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/** Opens tickets and keeps which there are. */
@Service
class Tickets {
  private static final int MAX_ANSWER = 100_000;
  private static final int MAX_TEXT = 4_000;
  private static final int MAX_TITLE = 200;

  /**
   * A ticket to be opened.
   *
   * @param ref what it is about
   * @param suspect the job or asset that is suspected, of the causes of {@code ref}
   * @param notice the id of a notice
   */
  record NewTicket(
      String ref,
      @Nullable String title,
      @Nullable String text,
      @Nullable String suspect,
      @Nullable String notice) {}

  /**
   * A ticket.
   *
   * @param url its address in the ticket system
   * @param outcome what was reported when it was closed
   */
  record ListedTicket(
      String id,
      String url,
      String title,
      String ref,
      String name,
      @Nullable String notice,
      String openedBy,
      Instant openedAt,
      @Nullable Instant closedAt,
      @Nullable String outcome) {}

  private final SharingQueries stored;
  private final References references;
  private final Catalog catalog;
  private final CauseFinder causes;
  private final NoticeBoard notices;
  private final Clock clock;
  private final String address;
  private final OutgoingCalls calls;

  Tickets(
      SharingQueries stored,
      References references,
      Catalog catalog,
      CauseFinder causes,
      NoticeBoard notices,
      Clock clock,
      OutgoingCalls calls,
      @Value("${longthread.tickets.url:}") String address) {
    this.stored = stored;
    this.references = references;
    this.catalog = catalog;
    this.causes = causes;
    this.notices = notices;
    this.clock = clock;
    this.calls = calls;
    this.address = address.strip();
  }

  List<ListedTicket> all() {
    return stored.tickets().stream().map(this::listed).toList();
  }

  private ListedTicket listed(SharingQueries.Ticket row) {
    return new ListedTicket(
        row.id(),
        row.address(),
        row.title(),
        row.ref(),
        catalog.asset(catalog.leadOf(row.ref())).map(Asset::shown).orElse(row.ref()),
        row.notice(),
        row.openedBy(),
        row.openedAt(),
        row.closedAt(),
        row.outcome());
  }

  /** Opens a ticket in the other system. */
  ListedTicket open(String by, NewTicket wanted, String base) {
    if (address.isEmpty()) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "no-ticket-system",
          "No ticket system is set",
          "start the service with LONGTHREAD_TICKETS_URL, the address that takes new tickets");
    }
    References.Named named = references.resolve(wanted.ref() == null ? "" : wanted.ref());
    ObjectNode data = CanonicalJson.MAPPER.createObjectNode();
    data.put("ref", named.ref()).put("name", named.asset().shown()).put("by", by);
    data.put("page", base + "/asset?ref=" + encoded(named.ref()));
    data.set("owners", CanonicalJson.MAPPER.valueToTree(named.asset().card().owners()));
    String title = named.asset().shown();
    if (wanted.suspect() != null && !wanted.suspect().isBlank()) {
      CauseFinder.Suspect suspect = suspect(named, wanted.suspect());
      data.set("suspect", CanonicalJson.MAPPER.valueToTree(suspect));
      title = suspect.name() + ": " + suspect.evidence();
    }
    if (wanted.notice() != null && !wanted.notice().isBlank()) {
      Notice notice = notice(wanted.notice());
      data.set("notice", CanonicalJson.MAPPER.valueToTree(notice));
      title = notice.name() + ": " + notice.text().lines().findFirst().orElse("");
    }
    if (wanted.title() != null && !wanted.title().isBlank()) {
      title = wanted.title().strip();
    }
    title = limited(title, MAX_TITLE);
    data.put("title", title);
    if (wanted.text() != null && !wanted.text().isBlank()) {
      data.put("text", limited(wanted.text().strip(), MAX_TEXT));
    }
    data.put("closed", base + "/api/v1/tickets/closed");
    JsonNode answer = post(event(title, data));
    String id = answer.path("id").asString("");
    String url = answer.path("url").asString("");
    if (id.isBlank() || !Card.isWebAddress(url)) {
      throw unreachable("it answered without an id and the url of the ticket");
    }
    String notice = wanted.notice() == null ? "" : wanted.notice();
    stored.addTicket(id, url, title, named.ref(), notice, by, clock.instant());
    return all().stream().filter(ticket -> ticket.id().equals(id)).findFirst().orElseThrow();
  }

  private ObjectNode event(String title, ObjectNode data) {
    ObjectNode event = CanonicalJson.MAPPER.createObjectNode();
    event.put("specversion", "1.0").put("id", UUID.randomUUID().toString());
    event.put("source", "longthread").put("type", "longthread.ticket").put("subject", title);
    event.put("time", clock.instant().toString()).put("datacontenttype", "application/json");
    event.set("data", data);
    return event;
  }

  private static String limited(String text, int most) {
    return text.length() <= most ? text : text.substring(0, most);
  }

  private static String encoded(String text) {
    return URLEncoder.encode(text, StandardCharsets.UTF_8);
  }

  private CauseFinder.Suspect suspect(References.Named named, String wanted) {
    String ref = references.resolve(wanted).asset().ref();
    return causes.find(named, Symptom.ANY, clock.instant(), null).suspects().stream()
        .filter(suspect -> suspect.ref().equals(ref))
        .findFirst()
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-suspect",
                    "It is not a suspect",
                    ref + " is not among the suspects for " + named.ref() + " now"));
  }

  private Notice notice(String id) {
    return notices
        .byId(id)
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-notice",
                    "No notice has this id",
                    "there is no notice '" + id + "'"));
  }

  private JsonNode post(ObjectNode event) {
    try {
      OutgoingCalls.Answer answer =
          calls.postTrusted(
              URI.create(address),
              "application/cloudevents+json; charset=utf-8",
              CanonicalJson.text(event).getBytes(StandardCharsets.UTF_8),
              MAX_ANSWER);
      if (answer.status() / 100 != 2) {
        throw unreachable("it answered " + answer.status());
      }
      return CanonicalJson.MAPPER.readTree(answer.body());
    } catch (IOException | JacksonException e) {
      throw unreachable(String.valueOf(e.getMessage()));
    }
  }

  private ProblemException unreachable(String why) {
    return new ProblemException(
        HttpStatus.BAD_GATEWAY,
        "ticket-system",
        "The ticket system did not open a ticket",
        "no ticket was opened at " + address + ": " + why);
  }

  /** Notes that a ticket was closed. */
  ListedTicket close(String id, String outcome) {
    boolean known = all().stream().anyMatch(ticket -> ticket.id().equals(id));
    if (!known) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-ticket",
          "No ticket has this id",
          "no ticket '" + id + "' was opened from here");
    }
    stored.closeTicket(id, outcome.strip(), clock.instant());
    return all().stream().filter(ticket -> ticket.id().equals(id)).findFirst().orElseThrow();
  }
}
