package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** What a search found. */
public record SearchResult(List<Hit> hits, int total, int restricted) {
  public SearchResult {
    hits = hits == null ? List.of() : List.copyOf(hits);
  }

  /** An asset that was found; the columns are those that match. */
  public record Hit(
      String ref,
      String kind,
      String name,
      @Nullable String title,
      String system,
      List<String> columns,
      List<String> owners,
      AssetAnswer.@Nullable Health health) {
    public Hit {
      columns = columns == null ? List.of() : List.copyOf(columns);
      owners = owners == null ? List.of() : List.copyOf(owners);
    }
  }
}
