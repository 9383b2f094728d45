package longthread.service.intake;

import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * Rows of one table of facts, each once, with the block that told it first. A digest in a row is
 * given as a {@link Hex}, so that rows can be compared, and is handed to the database as bytes.
 */
final class FactRows {
  /** A digest by its text. */
  record Hex(String text) {}

  private final Map<List<Object>, Long> blocks = new LinkedHashMap<>();

  void add(long block, Object... cells) {
    blocks.putIfAbsent(List.of(cells), block);
  }

  /** The rows as a statement takes them, the block last. */
  List<Object[]> rows() {
    var rows = new ArrayList<Object[]>(blocks.size());
    blocks.forEach(
        (cells, block) -> {
          var row = new Object[cells.size() + 1];
          for (int i = 0; i < cells.size(); i++) {
            row[i] = cells.get(i) instanceof Hex hex ? bytes(hex.text()) : cells.get(i);
          }
          row[cells.size()] = block;
          rows.add(row);
        });
    return rows;
  }

  /** A digest as the database keeps it. */
  static byte[] bytes(String hex) {
    return HexFormat.of().parseHex(hex);
  }
}
