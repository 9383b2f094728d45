package longthread.core.event;

/**
 * A shape with its text.
 *
 * @param digest SHA-256 of the text, in hex
 */
public record Stated(Shape shape, String text, String digest) {
  public static final Stated NOTHING = Stated.of(Shape.EMPTY);

  public static Stated of(Shape shape) {
    String text = ShapeText.write(shape);
    return new Stated(shape, text, CanonicalJson.digest(text));
  }
}
