package longthread.service.views;

import java.time.Clock;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import longthread.core.asset.Kind;
import longthread.service.live.Sight;
import longthread.service.storage.views.ViewQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** Saved views: everybody has views of their own, and uses those that others share. */
@Service
class SavedViews {
  /** What a view may set, as the console's addresses name it. */
  private static final Set<String> SETTINGS =
      Set.of("direction", "hops", "detail", "group", "hide", "facts");

  private static final int MAX_NAME = 60;
  private static final int MAX_VALUE = 400;
  private static final long MAX_VIEWS = 200;

  /**
   * A view.
   *
   * @param mine whether the caller saved it and may change it
   * @param defaultFor the kinds of assets that open with it
   */
  record SavedGraphView(
      String name,
      String owner,
      boolean mine,
      boolean shared,
      Map<String, String> settings,
      List<String> defaultFor,
      Instant changedAt) {}

  /** A view to be saved. */
  record NewView(
      @Nullable String name,
      @Nullable Boolean shared,
      @Nullable Map<String, String> settings,
      @Nullable List<String> defaultFor) {}

  private final ViewQueries stored;
  private final Clock clock;
  private final JsonMapper json = new JsonMapper();

  SavedViews(ViewQueries stored, Clock clock) {
    this.stored = stored;
    this.clock = clock;
  }

  List<SavedGraphView> visibleTo(String caller) {
    // What others hide or group by may name what this caller may not see.
    boolean isWhole = Sight.now().isWhole();
    return stored.visibleTo(caller).stream()
        .filter(row -> isWhole || row.owner().equals(caller))
        .map(row -> view(row, caller))
        .toList();
  }

  SavedGraphView save(String caller, NewView wanted) {
    String name = wanted.name() == null ? "" : wanted.name().strip();
    if (name.isEmpty() || name.length() > MAX_NAME || !name.chars().allMatch(c -> c >= ' ')) {
      throw ProblemException.badRequest(
          "bad-view", "a view has a name of 1 to " + MAX_NAME + " characters without line breaks");
    }
    var settings = new TreeMap<>(wanted.settings() == null ? Map.of() : wanted.settings());
    settings.forEach(SavedViews::check);
    List<String> kinds = wanted.defaultFor() == null ? List.of() : wanted.defaultFor();
    List<String> known = Arrays.stream(Kind.values()).map(Kind::word).toList();
    for (String kind : kinds) {
      if (!known.contains(kind)) {
        throw ProblemException.badRequest(
            "bad-view", "'" + kind + "' is no kind; the kinds are " + String.join(", ", known));
      }
    }
    if (stored.count(caller) >= MAX_VIEWS) {
      throw ProblemException.badRequest(
          "too-many-views", "you have " + MAX_VIEWS + " views; delete one before saving another");
    }
    boolean shared = Boolean.TRUE.equals(wanted.shared());
    Instant now = clock.instant();
    String text = json.writeValueAsString(settings);
    stored.save(caller, name, shared, text, kinds.toArray(String[]::new), now);
    return new SavedGraphView(name, caller, true, shared, settings, List.copyOf(kinds), now);
  }

  private static void check(String key, @Nullable String value) {
    if (!SETTINGS.contains(key) || value == null || value.length() > MAX_VALUE) {
      throw ProblemException.badRequest(
          "bad-view",
          "a view cannot set '"
              + key
              + "'; it sets "
              + String.join(", ", SETTINGS.stream().sorted().toList()));
    }
  }

  void delete(String caller, String name) {
    if (stored.delete(caller, name) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-view",
          "You have no view of this name",
          "you saved no view '" + name + "'; views of others are theirs to delete");
    }
  }

  private SavedGraphView view(ViewQueries.View row, String caller) {
    return new SavedGraphView(
        row.name(),
        row.owner(),
        row.owner().equals(caller),
        row.shared(),
        json.readValue(row.settings(), new TypeReference<TreeMap<String, String>>() {}),
        List.of(row.defaultFor()),
        row.changedAt());
  }
}
