package longthread.service.preview;

import java.security.SecureRandom;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import longthread.core.asset.Card;
import longthread.core.asset.Reference;
import longthread.core.label.Mask;
import longthread.core.label.MaskKind;
import longthread.reader.Preview;
import longthread.reader.UnreadableSourceException;
import longthread.service.audit.AuditLog;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelBoard;
import longthread.service.live.LabelMasks;
import longthread.service.live.References;
import longthread.service.live.Sight;
import longthread.service.storage.preview.PreviewQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;

/** Reads rows and masks them for the caller, before they leave the service. */
@Service
class Previews {
  static final int DEFAULT_ROWS = 20;
  static final int MAX_ROWS = 100;
  private static final int MAX_READ = 2_000; // letters of a value that are looked at
  private static final int MAX_SHOWN = 200; // letters of a value that are shown
  private static final int MAX_TOTAL = 400_000; // letters of all values
  private static final int SALT_BYTES = 32;
  private static final String SALT = "preview-salt";

  /**
   * A column of a preview.
   *
   * @param name as the source spells it
   * @param shown how its values are shown: shown, generalised, partial, hashed, hidden
   * @param labels the labels that are the reason
   */
  record PreviewColumn(String name, String ref, String shown, List<String> labels) {}

  /**
   * A few rows as they are now, in no order; a value that is absent is null.
   *
   * @param part the name of the asset that the rows are of
   * @param isCut whether there are more rows, or values were cut
   * @param missing columns of the catalog that the source does not have
   */
  record PreviewRows(
      String ref,
      String name,
      String part,
      String source,
      Instant readAt,
      String role,
      List<PreviewColumn> columns,
      List<List<@Nullable String>> rows,
      boolean isCut,
      List<String> missing) {}

  private record Shown(MaskKind kind, List<String> labels) {}

  private final PreviewSources sources;
  private final SourceTwins twins;
  private final References references;
  private final Catalog catalog;
  private final LabelBoard labels;
  private final LabelMasks masks;
  private final PreviewQueries stored;
  private final AuditLog audit;
  private final Clock clock;
  private volatile @Nullable Mask mask;

  Previews(
      PreviewSources sources,
      SourceTwins twins,
      References references,
      Catalog catalog,
      LabelBoard labels,
      LabelMasks masks,
      PreviewQueries stored,
      AuditLog audit,
      Clock clock) {
    this.sources = sources;
    this.twins = twins;
    this.references = references;
    this.catalog = catalog;
    this.labels = labels;
    this.masks = masks;
    this.stored = stored;
    this.audit = audit;
    this.clock = clock;
  }

  /**
   * Reads rows of an asset, or of one of its columns.
   *
   * @throws ProblemException 404 if no source holds it, 502 if the source cannot be read
   */
  PreviewRows of(String ref, int rows, AuditLog.Caller caller) {
    References.Named named = references.resolve(ref);
    if (named.asset().isJob()) {
      throw ProblemException.badRequest(
          "bad-reference", named.ref() + " is a job and has no rows; name what it writes");
    }
    PreviewSources.Match match = sources.match(parts(named));
    if (match == null) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-preview-source",
          "Nothing says where rows of this can be read",
          "no preview source holds "
              + named.asset().ref()
              + "; a steward sets one, see docs/labels.md");
    }
    List<Asset> same = twins.of(named.asset(), match);
    String role = role(named.asset(), caller);
    Map<String, String> wanted = columns(named);
    Preview read = read(match, List.copyOf(wanted.keySet()), rows);
    var columns = new ArrayList<PreviewColumn>();
    var kinds = new ArrayList<MaskKind>();
    for (String name : read.columns()) {
      String path = path(wanted, name);
      Shown shown = shown(same, name, role);
      kinds.add(shown.kind());
      columns.add(
          new PreviewColumn(
              name, named.asset().ref() + "#" + path, shown.kind().word(), shown.labels()));
    }
    // Noted before anything is given out: what cannot be noted is not shown.
    audit.done(caller, "preview", named.ref(), noted(columns, read.rows().size()));
    return new PreviewRows(
        named.ref(),
        named.asset().shown(),
        match.part(),
        match.source(),
        clock.instant(),
        role,
        columns,
        read.rows().stream().map(row -> masked(row, kinds)).toList(),
        read.isCut(),
        wanted.keySet().stream().filter(name -> !isIn(read.columns(), name)).toList());
  }

  /** The role that the caller has here, where grants may give another than on the whole. */
  private static String role(Asset asset, AuditLog.Caller caller) {
    boolean isSteward = Sight.now().edits(asset) && !caller.role().equals("admin");
    return isSteward ? "steward" : caller.role().equals("limited") ? "reader" : caller.role();
  }

  /** The names that events used: an asset of many files leads by a name that no file has. */
  private List<String> parts(References.Named named) {
    return named.asset().parts().stream().filter(part -> catalog.card(part).isPresent()).toList();
  }

  /** The columns that the catalog lists, by their names as the source spells them, with paths. */
  private static Map<String, String> columns(References.Named named) {
    var columns = new LinkedHashMap<String, String>();
    for (Card.Column column : named.asset().card().columns()) {
      boolean isMeant = named.column() == null || named.column().equals(column.path());
      if (isMeant && column.path().indexOf('.') < 0) {
        columns.put(Reference.decode(column.path()), column.path());
      }
    }
    if (columns.isEmpty()) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-columns",
          "No columns of this are known",
          "the catalog knows no columns of "
              + named.ref()
              + ", so nothing says which labels they have; nothing is read");
    }
    return columns;
  }

  private static String path(Map<String, String> wanted, String name) {
    String exact = wanted.get(name);
    return exact != null
        ? exact
        : wanted.entrySet().stream()
            .filter(one -> one.getKey().equalsIgnoreCase(name))
            .map(Map.Entry::getValue)
            .findFirst()
            .orElse(name);
  }

  private static boolean isIn(List<String> names, String name) {
    return names.stream().anyMatch(name::equalsIgnoreCase);
  }

  private Preview read(PreviewSources.Match match, List<String> columns, int rows) {
    try {
      return sources.read(match, columns, new Preview.Bounds(rows, MAX_READ, MAX_TOTAL));
    } catch (UnreadableSourceException e) {
      throw new ProblemException(
          HttpStatus.BAD_GATEWAY,
          "source-unreadable",
          "The source cannot be read",
          "the source '" + match.source() + "' gave no rows: " + e.getMessage());
    }
  }

  /**
   * How a column is shown: as the strictest of its labels has it, also where it may have one, under
   * each name of the table and each spelling of the column.
   */
  private Shown shown(List<Asset> assets, String name, String role) {
    MaskKind kind = MaskKind.SHOWN;
    var because = new ArrayList<String>();
    for (Asset asset : assets) {
      for (Card.Column column : asset.card().columns()) {
        if (!Reference.decode(column.path()).equalsIgnoreCase(name)) {
          continue;
        }
        for (LabelBoard.Labelled label : labels.of(asset.ref(), column.path())) {
          kind = kind.and(masks.shown(label.label(), role));
          String why = label.how().equals("perhaps") ? "perhaps " + label.label() : label.label();
          if (!because.contains(why)) {
            because.add(why);
          }
        }
      }
    }
    return new Shown(kind, because);
  }

  private List<@Nullable String> masked(List<@Nullable String> row, List<MaskKind> kinds) {
    Mask own = mask();
    var shown = new ArrayList<@Nullable String>(row.size());
    for (int i = 0; i < row.size(); i++) {
      shown.add(cut(own.of(row.get(i), kinds.get(i))));
    }
    return shown;
  }

  private static @Nullable String cut(@Nullable String value) {
    return value == null || value.codePointCount(0, value.length()) <= MAX_SHOWN
        ? value
        : value.substring(0, value.offsetByCodePoints(0, MAX_SHOWN)) + "…";
  }

  private static String noted(List<PreviewColumn> columns, int rows) {
    return rows
        + " rows: "
        + columns.stream()
            .map(c -> c.name() + " " + c.shown().toLowerCase(Locale.ROOT))
            .collect(Collectors.joining(", "));
  }

  /** The mask of this installation; its salt is made once and shared by all replicas. */
  private Mask mask() {
    Mask known = mask;
    if (known == null) {
      byte[] salt = new byte[SALT_BYTES];
      new SecureRandom().nextBytes(salt);
      stored.addSecret(SALT, salt);
      known = new Mask(stored.secret(SALT).orElseThrow());
      mask = known;
    }
    return known;
  }
}
