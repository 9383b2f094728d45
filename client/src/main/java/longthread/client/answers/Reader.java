package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** What a field or a chart is and where it comes from, in plain words. */
public record Reader(
    String ref,
    String kind,
    String name,
    String place,
    @Nullable String definition,
    @Nullable String definedAt,
    @Nullable String calculation,
    @Nullable String approved,
    @Nullable String url,
    List<Owner> owners,
    @Nullable Instant freshAt,
    List<String> warnings,
    List<Field> fields,
    List<Stop> stops,
    int more) {
  /** A field that can be read about in its turn. */
  public record Field(
      String ref, String name, @Nullable String definition, @Nullable String calculation) {}

  /** A stop on the way back to where the field is captured. */
  public record Stop(String sentence, @Nullable String calculation, int hops) {}
}
