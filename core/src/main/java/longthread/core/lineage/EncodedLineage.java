package longthread.core.lineage;

import longthread.core.json.CanonicalJson;

/**
 * A lineage with its text.
 *
 * @param digest SHA-256 of the text, in hex
 */
public record EncodedLineage(ReportedLineage lineage, String text, String digest) {
  public static final EncodedLineage NOTHING = EncodedLineage.of(ReportedLineage.EMPTY);

  public static EncodedLineage of(ReportedLineage lineage) {
    String text = LineageText.write(lineage);
    return new EncodedLineage(lineage, text, CanonicalJson.digest(text));
  }
}
