package longthread.service.access;

import jakarta.servlet.http.HttpServletRequest;
import java.util.HashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;

/**
 * What each call means to somebody whose grants cover a part of the catalog. A call that is not
 * listed is refused to them, and a test fails until it is.
 */
final class LimitedCalls {
  /** What such a caller may do with a call. */
  enum Rule {
    /** Its answer shows what they may see; the rest is restricted. */
    SEEN,
    /** Its answer says nothing of the catalog, or only what the caller keeps there. */
    NEUTRAL,
    /** It changes what they are steward of, and nothing else. */
    EDITS,
    /** It needs sight of the whole catalog, or another role. */
    WHOLE;
  }

  private static final String TABLE =
      """
      GET    /api/v1/accounts                whole
      POST   /api/v1/accounts                whole
      PATCH  /api/v1/accounts                whole
      DELETE /api/v1/accounts                whole
      PUT    /api/v1/accounts/password       whole
      GET    /api/v1/asset                   seen
      GET    /api/v1/audit                   whole
      GET    /api/v1/audit/actions           whole
      GET    /api/v1/blind-spots             whole
      GET    /api/v1/browse                  seen
      GET    /api/v1/causes                  seen
      GET    /api/v1/checks                  seen
      GET    /api/v1/compare                 whole
      GET    /api/v1/connections             whole
      POST   /api/v1/connections             whole
      GET    /api/v1/connections/key         whole
      GET    /api/v1/copies                  whole
      GET    /api/v1/coverage                whole
      GET    /api/v1/deliveries              whole
      POST   /api/v1/deliveries/retry        whole
      GET    /api/v1/edits                   whole
      POST   /api/v1/edits                   whole
      GET    /api/v1/export                  seen
      GET    /api/v1/fold                    whole
      GET    /api/v1/followed                whole
      POST   /api/v1/followed                whole
      GET    /api/v1/grants                  whole
      POST   /api/v1/grants                  whole
      DELETE /api/v1/grants                  whole
      GET    /api/v1/graph                   seen
      GET    /api/v1/groups                  whole
      PUT    /api/v1/groups                  whole
      DELETE /api/v1/groups                  whole
      PUT    /api/v1/groups/members          whole
      DELETE /api/v1/groups/members          whole
      GET    /api/v1/history                 whole
      GET    /api/v1/impact                  seen
      POST   /api/v1/impact                  seen
      GET    /api/v1/intake                  whole
      GET    /api/v1/intake/emitters         whole
      GET    /api/v1/intake/event            whole
      GET    /api/v1/intake/files            whole
      GET    /api/v1/intake/refused          whole
      POST   /api/v1/intake/refused/retry    whole
      GET    /api/v1/intake/refused/{id}     whole
      POST   /api/v1/intake/refused/{id}/retry whole
      GET    /api/v1/job                     seen
      GET    /api/v1/job/steps               seen
      GET    /api/v1/keys                    whole
      POST   /api/v1/keys                    whole
      DELETE /api/v1/keys                    whole
      DELETE /api/v1/keys/{name}             whole
      GET    /api/v1/label                   seen
      GET    /api/v1/labels                  seen
      GET    /api/v1/labels/coverage         whole
      GET    /api/v1/labels/disagreements    whole
      GET    /api/v1/labels/masks            neutral
      GET    /api/v1/labels/policies         whole
      GET    /api/v1/labels/reviews          whole
      GET    /api/v1/labels/rules            whole
      GET    /api/v1/labels/stops            whole
      GET    /api/v1/labels/suggestions      whole
      GET    /api/v1/labels/try              whole
      GET    /api/v1/leaks                   seen
      POST   /api/v1/lineage                 whole
      POST   /api/v1/lineage/batch           whole
      GET    /api/v1/moments                 whole
      GET    /api/v1/notices                 seen
      POST   /api/v1/notices                 edits
      POST   /api/v1/notices/lift            edits
      GET    /api/v1/over-merged             whole
      GET    /api/v1/parts                   seen
      GET    /api/v1/planned-change          whole
      GET    /api/v1/planned-change/compare  whole
      GET    /api/v1/planned-changes         whole
      POST   /api/v1/planned-changes         whole
      POST   /api/v1/planned-changes/answer  whole
      POST   /api/v1/planned-changes/state   whole
      GET    /api/v1/preview                 seen
      POST   /api/v1/preview/sample          whole
      GET    /api/v1/preview/sources         whole
      PUT    /api/v1/preview/sources         whole
      DELETE /api/v1/preview/sources         whole
      GET    /api/v1/proof                   whole
      POST   /api/v1/proof/check             whole
      GET    /api/v1/reader                  seen
      GET    /api/v1/readers                 whole
      PUT    /api/v1/readers                 whole
      DELETE /api/v1/readers                 whole
      POST   /api/v1/readers/run             whole
      GET    /api/v1/rebuild                 whole
      POST   /api/v1/rebuild                 whole
      GET    /api/v1/recall                  seen
      GET    /api/v1/recorded                whole
      GET    /api/v1/rules/try               whole
      GET    /api/v1/run                     seen
      GET    /api/v1/runs                    seen
      GET    /api/v1/schemas/planned-change.json neutral
      GET    /api/v1/schemas/steps.json      neutral
      GET    /api/v1/schemas/workspace.json  neutral
      GET    /api/v1/search                  seen
      DELETE /api/v1/session                 neutral
      GET    /api/v1/session                 neutral
      POST   /api/v1/session                 neutral
      PUT    /api/v1/session/password        neutral
      GET    /api/v1/session/provider        neutral
      GET    /api/v1/session/provider/back   neutral
      POST   /api/v1/session/provider/ended  neutral
      GET    /api/v1/share-links             whole
      POST   /api/v1/share-links             whole
      DELETE /api/v1/share-links             whole
      GET    /api/v1/snapshot                whole
      POST   /api/v1/sql/lineage             neutral
      GET    /api/v1/statements              whole
      POST   /api/v1/statements              edits
      POST   /api/v1/statements/undo         whole
      GET    /api/v1/statistics              seen
      GET    /api/v1/suggestions/merges      whole
      GET    /api/v1/suggestions/terms       whole
      GET    /api/v1/term                    seen
      GET    /api/v1/terms                   seen
      GET    /api/v1/thread                  seen
      GET    /api/v1/tickets                 whole
      POST   /api/v1/tickets                 whole
      POST   /api/v1/tickets/closed          whole
      GET    /api/v1/today                   whole
      GET    /api/v1/trail                   seen
      POST   /api/v1/trail                   seen
      DELETE /api/v1/trail                   seen
      PUT    /api/v1/trail/sharing           neutral
      GET    /api/v1/views                   neutral
      PUT    /api/v1/views                   neutral
      DELETE /api/v1/views                   neutral
      GET    /api/v1/watches                 whole
      POST   /api/v1/watches                 whole
      DELETE /api/v1/watches                 whole
      POST   /api/v1/watches/try             whole
      GET    /api/v1/workspace               seen
      GET    /api/v1/workspaces              seen
      PUT    /api/v1/workspaces              whole
      """;

  private static final Map<String, Rule> RULES = rules();

  private LimitedCalls() {}

  private static Map<String, Rule> rules() {
    var rules = new HashMap<String, Rule>();
    TABLE
        .lines()
        .map(line -> line.strip().split("\\s+"))
        .forEach(
            cells ->
                rules.put(
                    cells[0] + " " + cells[1], Rule.valueOf(cells[2].toUpperCase(Locale.ROOT))));
    return Map.copyOf(rules);
  }

  /** The rule of a call as the interface describes it; empty if it has none. */
  static Optional<Rule> of(String method, String path) {
    return Optional.ofNullable(RULES.get((method.equals("HEAD") ? "GET" : method) + " " + path));
  }

  /** All rules, by method and path. */
  static Map<String, Rule> all() {
    return RULES;
  }

  /**
   * Whether the grants of a request's caller admit a call that their role on the whole catalog does
   * not.
   */
  static boolean admits(HttpServletRequest request) {
    Authentication who = SecurityContextHolder.getContext().getAuthentication();
    if (who == null || !(who.getDetails() instanceof Held held)) {
      return false;
    }
    Rule rule = of(request.getMethod(), request.getRequestURI()).orElse(Rule.WHOLE);
    return switch (rule) {
      case SEEN -> !held.readsAll() && !held.reads().isEmpty();
      case NEUTRAL -> held.role() == Role.LIMITED;
      case EDITS -> held.editsSome();
      case WHOLE -> false;
    };
  }
}
