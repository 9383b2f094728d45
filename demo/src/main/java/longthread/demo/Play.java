package longthread.demo;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.json.JsonMapper;

/** Plays the demo world into a service: some nights of history, or one more night. */
@Command(name = "play", description = "Plays the demo world into a running service.")
public final class Play implements Callable<Integer> {
  private static final String VIEWER = "world_viewer";
  private static final String RENAME =
      "{\"format\":\"longthread-change/1\",\"title\":\"Litres become volume_l\",\"reason\":\"The"
          + " collection team settles on one name for volume, the one that the warehouse has.\","
          + "\"author\":\"Collection\",\"steps\":[{\"change\":\"rename\",\"of\":"
          + "\"collect.public.pickup#litres\",\"to\":\"volume_l\"}]}";
  private static final int NIGHTS = 8;
  private static final int DAYS_BEFORE = 12;
  private static final int CODE_CHANGED = 4; // nights ago
  private static final long REQUEST_SECONDS = 35;
  private static final long LONG_REQUEST_SECONDS = 720;
  private static final LocalTime PLANNED_START = LocalTime.of(1, 0);

  // A night that is played now: what is missed, a change, the night's tasks, and then the refresh.
  private static final Duration BEFORE_THAT = Duration.ofMinutes(12);
  private static final Duration RENAMED_BEFORE = Duration.ofMinutes(8);
  private static final Duration BEFORE_REFRESH = Duration.ofMinutes(4);

  @Parameters(index = "0", description = "history, night or fault")
  private String what = "";

  @Parameters(index = "1", arity = "0..1", description = "What goes wrong, with fault.")
  private String fault = "";

  @Option(names = "--service", required = true)
  private String service = "";

  @Option(names = "--token-file", required = true)
  private Path tokenFile = Path.of("");

  @Option(names = "--database", required = true)
  private String database = "";

  @Option(names = "--password-file", required = true)
  private Path passwordFile = Path.of("");

  @Option(names = "--home", required = true)
  private Path home = Path.of("");

  private final Clock clock = Clock.systemUTC();

  public static void main(String[] args) {
    System.exit(new CommandLine(new Play()).execute(args));
  }

  @Override
  public Integer call() throws SQLException, IOException {
    String token = Files.readString(tokenFile).strip();
    var emitter = new Emitter(service, token, home.resolve("world").resolve("spool"));
    try (var barn = new Barn(database, Files.readString(passwordFile).strip(), home)) {
      if (what.equals("history")) {
        Ripening.create(database, Files.readString(passwordFile).strip());
        history(barn, emitter);
        emitter.flush();
        new Tallybook(service, token, home).close();
        barn.letView(VIEWER, Files.readString(home.resolve("viewer.password")).strip());
        byHand(signIns(token));
        isDone(token, "POST", "/api/v1/planned-changes", RENAME);
      } else if (what.equals("night")) {
        night(barn, emitter);
        emitter.flush();
      } else if (what.equals("fault") && Fault.of(fault).isPresent()) {
        fault(Fault.of(fault).get(), barn, emitter);
        emitter.flush();
      } else {
        System.err.println(
            "'"
                + what
                + " "
                + fault
                + "' cannot be played; take history, night, or fault with one of "
                + String.join(", ", Fault.words()));
        return 2;
      }
    }
    System.out.println("played: " + emitter.sent() + " events sent");
    return 0;
  }

  /**
   * The night that is over for at least three hours, so that what is missing from it counts as
   * missing, and what is not due yet does not: as its planned start.
   */
  static LocalDateTime lastNight(Instant now) {
    LocalDateTime local = LocalDateTime.ofInstant(now, ZoneOffset.UTC);
    LocalDateTime planned = local.toLocalDate().atTime(PLANNED_START);
    if (local.toLocalTime().isBefore(LocalTime.of(3, 0))) {
      return planned.minusDays(1);
    }
    return local.toLocalTime().isBefore(LocalTime.of(6, 0)) ? planned.minusHours(4) : planned;
  }

  private void history(Barn barn, Emitter emitter) throws SQLException, IOException {
    LocalDateTime last = lastNight(clock.instant());
    LocalDate lastDay = last.toLocalDate().minusDays(1);
    barn.create();
    for (int back = NIGHTS + DAYS_BEFORE; back >= 0; back--) {
      barn.live(lastDay.minusDays(back));
    }
    var nightshift = new Nightshift(barn, emitter);
    var sightglass = new Sightglass(home, emitter);
    var tankflow = new Tankflow(barn, emitter);
    for (int back = NIGHTS + 1; back >= NIGHTS; back--) {
      LocalDateTime start = last.minusDays(back);
      nightshift.tellOfOldName(
          start.toLocalDate().minusDays(1), instant(start, LocalTime.of(2, 35)));
    }
    nightshift.tellOfRename(instant(last.minusDays(NIGHTS), LocalTime.of(15, 0)));
    for (int back = NIGHTS - 1; back >= 0; back--) {
      LocalDateTime start = last.minusDays(back);
      LocalDate day = start.toLocalDate().minusDays(1);
      nightshift.useCode(back >= CODE_CHANGED);
      if (back > 0) {
        barn.measure(day); // on the last night, the laboratory's file never comes
      }
      nightshift.run(day, task -> instant(start, task.at()));
      requests(sightglass, back, start);
      sightglass.night(at -> instant(start, at), back == 0);
      Files.writeString(home.resolve("world").resolve("last-day"), day.toString());
      if (back > 0) {
        tankflow.run(instant(start, PLANNED_START), instant(start.plusDays(1), PLANNED_START));
      }
    }
    tankflow.run(instant(last, PLANNED_START), clock.instant());
    new Curdworks(emitter).run(instant(last, LocalTime.of(5, 0)));
  }

  /**
   * What people refresh on request: one review on the day before the laboratory's task changed, and
   * one while the changed task ran for the first time.
   */
  private static void requests(Sightglass sightglass, int back, LocalDateTime start)
      throws IOException {
    if (back == CODE_CHANGED) {
      Instant morning = instant(start, LocalTime.of(9, 0));
      sightglass.request(
          "milk-quality", "model/class-review", morning, morning.plusSeconds(REQUEST_SECONDS));
    } else if (back == CODE_CHANGED - 1) {
      Instant night = instant(start, LocalTime.of(2, 34));
      sightglass.request(
          "milk-quality", "model/class-audit", night, night.plusSeconds(LONG_REQUEST_SECONDS));
    }
  }

  /** A time of night, by how far it lies behind the planned start. */
  private static Instant instant(LocalDateTime nightStart, LocalTime planned) {
    return nightStart.plus(Duration.between(PLANNED_START, planned)).toInstant(ZoneOffset.UTC);
  }

  /** One more night, played now: the late file has come, and the day after it. */
  private void night(Barn barn, Emitter emitter) throws SQLException, IOException {
    Path state = home.resolve("world").resolve("last-day");
    LocalDate missed = LocalDate.parse(Files.readString(state).strip());
    LocalDate day = missed.plusDays(1);
    barn.live(day);
    var nightshift = new Nightshift(barn, emitter);
    if (!Files.exists(barn.readings(missed))) {
      barn.measure(missed);
      nightshift.makeUpFor(missed, task -> clock.instant().minus(BEFORE_THAT));
    }
    barn.measure(day);
    nightshift.run(day, task -> clock.instant().minus(BEFORE_REFRESH));
    new Sightglass(home, emitter).night(at -> clock.instant().minusSeconds(60), false);
    new Tankflow(barn, emitter).run(clock.instant().minus(Duration.ofHours(3)), clock.instant());
    Files.writeString(state, day.toString());
  }

  /** A night in which something goes wrong, played now; what was missing before comes first. */
  private void fault(Fault what, Barn barn, Emitter emitter) throws SQLException, IOException {
    var sightglass = new Sightglass(home, emitter);
    Path state = home.resolve("world").resolve("last-day");
    LocalDate missed = LocalDate.parse(Files.readString(state).strip());
    LocalDate day = missed.plusDays(1);
    barn.live(day);
    var nightshift = new Nightshift(barn, emitter);
    if (what != Fault.MISSING_DROP && !Files.exists(barn.readings(missed))) {
      barn.measure(missed);
      nightshift.makeUpFor(missed, task -> clock.instant().minus(BEFORE_THAT));
    }
    if (what == Fault.REPEATED_HOUR) {
      sightglass.night(at -> clock.instant().minusSeconds(60), false);
      new RepeatedHour(barn, emitter).play(clock.instant(), sightglass);
      return;
    }
    if (what == Fault.RENAMED_COLUMN) {
      barn.run("alter table collect.pickup rename column litres to volume_l");
      nightshift.tellOfSchema("collect.pickup", clock.instant().minus(RENAMED_BEFORE));
    }
    if (what != Fault.MISSING_DROP) {
      barn.measure(day, what == Fault.UNIT_SLIP ? 10 : 1);
    }
    nightshift.suffer(what);
    nightshift.run(day, task -> clock.instant().minus(BEFORE_REFRESH));
    sightglass.night(at -> clock.instant().minusSeconds(60), false);
    Files.writeString(state, day.toString());
  }

  /** Three more people for trying out, kept where only the home's owner can read them. */
  private Map<String, String> signIns(String token) throws IOException {
    var lines = new StringBuilder();
    var passwords = new HashMap<String, String>();
    for (String[] person :
        new String[][] {
          {"ida", "Ida Thwaite", "reader"},
          {"ruth", "Ruth Ainley", "steward"},
          {"owen", "Owen Marl", "limited"}
        }) {
      byte[] bytes = new byte[6];
      new SecureRandom().nextBytes(bytes);
      String password = HexFormat.of().formatHex(bytes);
      String body =
          String.format(
              "{\"name\":\"%s\",\"displayName\":\"%s\",\"password\":\"%s\",\"role\":\"%s\"}",
              person[0], person[1], password, person[2]);
      if (isDone(token, "POST", "/api/v1/accounts", body)) {
        passwords.put(person[0], password);
        lines.append(person[0] + " / " + password + "   (" + person[2] + ")\n");
      }
    }
    if (passwords.containsKey("owen")) {
      payoutOffice(token);
    }
    Path file = home.resolve("demo.sign-ins");
    Files.deleteIfExists(file);
    Files.createFile(
        file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
    Files.writeString(file, lines);
    return passwords;
  }

  /** The payout office sees its workspace and the warehouse, and none of what lies before. */
  private void payoutOffice(String token) throws IOException {
    isDone(token, "PUT", "/api/v1/groups", "{\"name\":\"payout\",\"title\":\"Payout office\"}");
    isDone(token, "PUT", "/api/v1/groups/members", "{\"group\":\"payout\",\"account\":\"owen\"}");
    for (String scope :
        new String[] {
          "\"scope\":\"workspace\",\"value\":\"Farm Payments\"",
          "\"scope\":\"system\",\"value\":\"barn\""
        }) {
      isDone(
          token,
          "POST",
          "/api/v1/grants",
          "{\"holderKind\":\"group\",\"holder\":\"payout\",\"role\":\"reader\"," + scope + "}");
    }
  }

  /** Sends a body; returns whether the service took it. */
  private boolean isDone(String token, String method, String path, String body) throws IOException {
    var request =
        HttpRequest.newBuilder(URI.create(service + path))
            .header("Authorization", "Bearer " + token)
            .header("Content-Type", "application/json")
            .method(method, HttpRequest.BodyPublishers.ofString(body))
            .build();
    try {
      return HttpClient.newHttpClient()
              .send(request, HttpResponse.BodyHandlers.ofString())
              .statusCode()
          == 200;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return false;
    }
  }

  /** What the steward of the demo world sets by hand; not again where the account was there. */
  private void byHand(Map<String, String> passwords) throws IOException {
    String password = passwords.get("ruth");
    if (password != null) {
      var steward = new Steward(service);
      steward.state("ruth", password, new JsonMapper().readTree(Task.resource("by-hand.json")));
      String warehouse = "postgres://barn.hollinvale.example:5432/barn.";
      String collection = "postgres://collect-db.hollinvale.example:5432/collect.public.";
      String address = database.replaceFirst("^jdbc:postgresql://", "postgres://" + VIEWER + "@");
      steward.show("barn", warehouse, address, "");
      steward.show("collect-db", collection, address, "collect");
      Path share = home.toAbsolutePath().resolve("world").resolve("lab-drop");
      steward.show("lab-drop", "file://lab-share.hollinvale.example//drop/", "" + share, "");
    }
  }
}
