package longthread.core.history;

import java.util.List;
import longthread.core.event.ColumnLink;
import longthread.core.event.Shape;
import longthread.core.event.Stated;

/**
 * A shape with what is worked out of it once: runs of one job mostly share theirs, and are compared
 * fastest when they share the object too.
 *
 * @param hash SHA-256 of its text, in hex
 * @param links the links it amounts to
 */
public record LaidShape(Shape shape, String hash, List<ColumnLink> links) {
  public static final LaidShape NONE = LaidShape.of(Shape.EMPTY);

  public static LaidShape of(Shape shape) {
    return new LaidShape(shape, Stated.of(shape).digest(), List.copyOf(shape.links()));
  }
}
