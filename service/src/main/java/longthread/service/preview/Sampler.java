package longthread.service.preview;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import longthread.core.asset.Card;
import longthread.core.asset.Reference;
import longthread.core.label.ValueKind;
import longthread.reader.Preview;
import longthread.reader.UnreadableSourceException;
import longthread.service.audit.AuditLog;
import longthread.service.audit.AuditNote;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.live.ValueSamples;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Service;

/**
 * Looks at a few values of columns without labels, where a steward allows it, to find out what they
 * look like. Values are looked at in memory and forgotten; what is kept is a kind and two counts.
 */
@Service
class Sampler {
  private static final Logger LOG = LoggerFactory.getLogger(Sampler.class);
  private static final int ROWS = 100;
  private static final int MAX_VALUE = 300;
  private static final int MAX_TOTAL = 1_000_000;
  private static final Duration AGAIN = Duration.ofDays(7);
  private static final Duration AFTER_FAULT = Duration.ofDays(1);
  private static final AuditLog.Caller SERVICE = new AuditLog.Caller("service", "", false, "");

  /** What a sample found; the values themselves are nowhere. */
  record SampleFound(
      String ref, String source, Instant at, int columns, List<SampledColumn> found) {}

  /**
   * A column whose values look like something.
   *
   * @param label the label that such values mostly have
   */
  record SampledColumn(String ref, String looksLike, String label, int matched, int looked) {}

  private final PreviewSources sources;
  private final ValueSamples samples;
  private final Catalog catalog;
  private final References references;
  private final SourceTwins twins;
  private final AuditLog audit;
  private final Clock clock;
  private final boolean isOn;

  Sampler(
      PreviewSources sources,
      ValueSamples samples,
      Catalog catalog,
      References references,
      SourceTwins twins,
      AuditLog audit,
      Clock clock,
      @Value("${longthread.preview.sampling:true}") boolean isOn) {
    this.sources = sources;
    this.samples = samples;
    this.catalog = catalog;
    this.references = references;
    this.twins = twins;
    this.audit = audit;
    this.clock = clock;
    this.isOn = isOn;
  }

  /** Samples one asset now. */
  SampleFound sample(String ref) {
    Asset asset = references.resolve(ref).asset();
    PreviewSources.Match match = sources.match(parts(asset));
    if (match == null || !match.isSampled()) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "not-sampled",
          "No source of this may be sampled",
          match == null
              ? "no preview source holds " + asset.ref() + "; a steward sets one"
              : "the source '"
                  + match.source()
                  + "' is set without sampling; a steward sets it again with it");
    }
    AuditNote.about(asset.ref());
    AuditNote.detail(noted(unlabelled(asset, match).size()));
    ValueSamples.Sampled found = look(asset, match);
    if (found.fault() != null) {
      throw new ProblemException(
          HttpStatus.BAD_GATEWAY,
          "source-unreadable",
          "The source cannot be read",
          "rows of " + match.part() + " cannot be read: " + found.fault());
    }
    return new SampleFound(
        asset.ref(),
        found.source(),
        found.at(),
        unlabelled(asset, match).size(),
        found.looks().stream()
            .map(
                one ->
                    new SampledColumn(
                        asset.ref() + "#" + one.path(),
                        one.valueKind() == null ? one.kind() : one.valueKind().words(),
                        one.valueKind() == null ? "" : one.valueKind().label(),
                        one.matched(),
                        one.looked()))
            .toList());
  }

  /**
   * Samples the asset whose turn it is, if a source may be sampled at all. One at a time, so that a
   * source is never asked much.
   */
  @Scheduled(
      initialDelayString = "${longthread.preview.sample-every:PT10S}",
      fixedDelayString = "${longthread.preview.sample-every:PT10S}")
  void next() {
    if (!isOn) {
      return;
    }
    try {
      Set<String> allowed =
          sources.all().stream()
              .filter(PreviewSources.ListedSource::sampled)
              .map(PreviewSources.ListedSource::name)
              .collect(Collectors.toSet());
      samples.keepOnly(allowed);
      if (!allowed.isEmpty()) {
        due().ifPresent(this::lookUnasked);
      }
    } catch (RuntimeException e) {
      LOG.warn("values cannot be sampled now: {}", e.getMessage());
    }
  }

  private record Due(Asset asset, PreviewSources.Match match) {}

  /** An asset that was not sampled for a week; one that never was comes first. */
  private Optional<Due> due() {
    Instant now = clock.instant();
    PreviewSources.Matcher matcher = sources.matcher();
    return catalog.all().stream()
        .filter(asset -> !asset.isJob() && !asset.card().retired())
        .filter(asset -> isDue(samples.all().get(asset.ref()), now))
        .filter(asset -> matcher.mayBeSampled(asset.parts()))
        .sorted(
            Comparator.comparing((Asset asset) -> samples.all().containsKey(asset.ref()))
                .thenComparing(Asset::ref))
        .map(asset -> new Due(asset, matcher.match(parts(asset))))
        .filter(due -> due.match() != null && due.match().isSampled())
        .findFirst();
  }

  private static boolean isDue(ValueSamples.@Nullable Sampled known, Instant now) {
    return known == null
        || known.at().plus(known.fault() == null ? AGAIN : AFTER_FAULT).isBefore(now);
  }

  private List<String> parts(Asset asset) {
    return asset.parts().stream().filter(part -> catalog.card(part).isPresent()).toList();
  }

  /** Columns without any label, by their names as the source spells them, with their paths. */
  private Map<String, String> unlabelled(Asset asset, PreviewSources.Match match) {
    List<Asset> same = twins.of(asset, match);
    var columns = new LinkedHashMap<String, String>();
    for (Card.Column column : asset.card().columns()) {
      boolean isPlain = column.path().indexOf('.') < 0;
      if (isPlain && !twins.isLabelled(same, Reference.decode(column.path()))) {
        columns.put(Reference.decode(column.path()), column.path());
      }
    }
    return columns;
  }

  private void lookUnasked(Due due) {
    int columns = unlabelled(due.asset(), due.match()).size();
    if (columns > 0) {
      audit.done(SERVICE, "sampleValues", due.asset().ref(), noted(columns));
    }
    look(due.asset(), due.match());
  }

  private static String noted(int columns) {
    return columns + " columns without labels";
  }

  private ValueSamples.Sampled look(Asset asset, PreviewSources.Match match) {
    Map<String, String> columns = unlabelled(asset, match);
    var looks = new ArrayList<ValueSamples.ColumnLooks>();
    String fault = null;
    if (!columns.isEmpty()) {
      try {
        Preview read =
            sources.read(
                match,
                List.copyOf(columns.keySet()),
                new Preview.Bounds(ROWS, MAX_VALUE, MAX_TOTAL));
        looks.addAll(looks(read, columns));
      } catch (UnreadableSourceException | ProblemException e) {
        fault = String.valueOf(e.getMessage());
      }
    }
    var found =
        new ValueSamples.Sampled(asset.ref(), match.source(), clock.instant(), looks, fault);
    samples.keep(found);
    return found;
  }

  private static List<ValueSamples.ColumnLooks> looks(Preview read, Map<String, String> columns) {
    var looks = new ArrayList<ValueSamples.ColumnLooks>();
    for (int i = 0; i < read.columns().size(); i++) {
      var values = new ArrayList<@Nullable String>();
      for (List<@Nullable String> row : read.rows()) {
        values.add(row.get(i));
      }
      String name = read.columns().get(i);
      ValueKind.of(values)
          .ifPresent(
              like ->
                  looks.add(
                      new ValueSamples.ColumnLooks(
                          columns.getOrDefault(name, Reference.encodeSegment(name)),
                          like.kind().word(),
                          like.matched(),
                          like.looked())));
    }
    return looks;
  }
}
