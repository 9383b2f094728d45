package longthread.service.intake;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Parts a batch into the bytes of its events, without reading them: lines of NDJSON, or the
 * elements of one JSON array. A damaged element harms no other as long as its brackets and quotes
 * pair.
 */
final class BatchSplitter {
  private BatchSplitter() {}

  static List<byte[]> split(byte[] body) {
    int start = skipSpace(body, 0);
    return start < body.length && body[start] == '[' ? elements(body, start + 1) : lines(body);
  }

  private static List<byte[]> lines(byte[] body) {
    var lines = new ArrayList<byte[]>();
    int start = 0;
    for (int at = 0; at <= body.length; at++) {
      if (at == body.length || body[at] == '\n') {
        add(lines, body, start, at);
        start = at + 1;
      }
    }
    return lines;
  }

  private static List<byte[]> elements(byte[] body, int from) {
    var elements = new ArrayList<byte[]>();
    int depth = 0;
    boolean quoted = false;
    int start = from;
    for (int at = from; at < body.length; at++) {
      byte c = body[at];
      if (quoted) {
        if (c == '\\') {
          at++;
        } else if (c == '"') {
          quoted = false;
        }
      } else if (c == '"') {
        quoted = true;
      } else if (c == '{' || c == '[') {
        depth++;
      } else if (depth == 0 && (c == ',' || c == ']')) {
        add(elements, body, start, at);
        start = at + 1;
        if (c == ']') {
          return elements;
        }
      } else if (c == '}' || c == ']') {
        depth--;
      }
    }
    // The array never ended: what is left is reported as one unreadable event, not dropped.
    add(elements, body, start, body.length);
    return elements;
  }

  private static void add(List<byte[]> parts, byte[] body, int start, int end) {
    int first = skipSpace(body, start);
    int last = end;
    while (last > first && isSpace(body[last - 1])) {
      last--;
    }
    if (first < last) {
      parts.add(Arrays.copyOfRange(body, first, last));
    }
  }

  private static int skipSpace(byte[] body, int at) {
    int next = at;
    while (next < body.length && isSpace(body[next])) {
      next++;
    }
    return next;
  }

  private static boolean isSpace(byte c) {
    return c == ' ' || c == '\n' || c == '\r' || c == '\t';
  }
}
