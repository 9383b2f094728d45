package longthread.client.answers;

import java.util.List;

/** The shortest thread between two. */
public record ThreadAnswer(String from, String to, String basis, boolean reversed, List<Hop> hops) {
  public ThreadAnswer {
    hops = hops == null ? List.of() : List.copyOf(hops);
  }
}
