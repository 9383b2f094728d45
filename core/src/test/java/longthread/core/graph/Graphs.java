package longthread.core.graph;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;

/** Graphs drawn as text: {@code a#x IDENTITY b#y by @n/job}. */
public final class Graphs {
  private Graphs() {}

  public static GraphStore store(String... lines) {
    var store = new GraphStore();
    Map<String, List<NamedLink>> byOwner =
        List.of(lines).stream()
            .collect(
                Collectors.groupingBy(
                    Graphs::owner, Collectors.mapping(Graphs::link, Collectors.toList())));
    store.replaceAll(byOwner);
    return store;
  }

  public static LineageGraph graph(String... lines) {
    return store(lines).current();
  }

  private static String owner(String line) {
    String[] words = line.split("\\s+");
    return words.length > 4 ? words[4] : "@n/j";
  }

  public static NamedLink link(String line) {
    String[] words = line.split("\\s+");
    boolean masking = words[1].endsWith("!");
    return new NamedLink(
        asset(words[0]),
        column(words[0]),
        asset(words[2]),
        column(words[2]),
        Flow.valueOf(words[1].replace("!", "")),
        masking);
  }

  private static String asset(String ref) {
    int hash = ref.indexOf('#');
    return hash < 0 ? ref : ref.substring(0, hash);
  }

  private static String column(String ref) {
    int hash = ref.indexOf('#');
    return hash < 0 ? "*" : ref.substring(hash + 1);
  }

  /** The node that a reference such as {@code a#x} names. */
  public static int node(LineageGraph graph, String ref) {
    int asset = graph.asset(asset(ref)).orElseThrow();
    return graph.node(asset, column(ref)).orElseThrow();
  }

  /** A reach as {@code ref@hops}, by name within a hop. */
  static String asText(LineageGraph graph, Reach reach) {
    return IntStream.range(0, reach.size())
        .mapToObj(i -> reach.hops()[i] + " " + graph.reference(reach.nodes()[i]))
        .sorted()
        .map(
            text ->
                text.substring(text.indexOf(' ') + 1) + "@" + text.substring(0, text.indexOf(' ')))
        .collect(Collectors.joining(" "));
  }

  static String asText(LineageGraph graph, List<GraphLink> hops) {
    var stops = new ArrayList<String>();
    hops.forEach(hop -> stops.add(graph.reference(hop.from())));
    if (!hops.isEmpty()) {
      stops.add(graph.reference(hops.get(hops.size() - 1).to()));
    }
    return String.join(" > ", stops);
  }
}
