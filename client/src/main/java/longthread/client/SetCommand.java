package longthread.client;

import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
    name = "set",
    description = "Set description, owners, tags, terms or links of an asset or column by hand.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "What is set by hand leads over what systems and emitters say; their values stay visible.",
      "An option that is given several times makes a list, which replaces the one set before.",
      "Examples:",
      "  longthread set core.pickup --owner team:milk --reason 'took over in November'",
      "  longthread set 'core.pickup#litres' --description 'After rinse water.' --term volume",
      "  longthread set core.pickup --clear owners"
    })
final class SetCommand extends Stating implements Callable<Integer> {
  private static final List<String> CLEARED =
      List.of("description", "owners", "tags", "terms", "links");

  @Parameters(paramLabel = "NAME", description = "An asset, or a column as asset#column.")
  private String of = "";

  @Option(names = "--description", paramLabel = "TEXT", description = "What it is.")
  private @Nullable String description;

  @Option(
      names = "--owner",
      paramLabel = "OWNER",
      description = "Who answers for it: team:NAME, 'Name <address>'.")
  private List<String> owners = List.of();

  @Option(names = "--tag", paramLabel = "TAG", description = "A tag: key, or key:value.")
  private List<String> tags = List.of();

  @Option(
      names = "--term",
      paramLabel = "TERM",
      description = "A glossary term, by id, name or synonym.")
  private List<String> terms = List.of();

  @Option(
      names = "--link",
      paramLabel = "TITLE=URL",
      description = "A web page that belongs to it.")
  private List<String> links = List.of();

  @Option(
      names = "--clear",
      paramLabel = "WHAT",
      split = ",",
      description = "Take away what was set by hand: description, owners, tags, terms, links.")
  private List<String> cleared = List.of();

  @Override
  public Integer call() {
    cleared.forEach(word -> ClosedWords.check(spec, "--clear", word, CLEARED));
    ArrayNode changes = changes();
    if (description != null) {
      change(changes, "description").put("of", of).put("value", description);
    }
    list(changes, "owners", owners);
    list(changes, "tags", tags);
    list(changes, "terms", terms);
    if (!links.isEmpty()) {
      ArrayNode list = change(changes, "links").put("of", of).putArray("value");
      for (String link : links) {
        int equals = link.indexOf('=');
        if (equals <= 0) {
          throw wrong("'" + link + "' is no link; write TITLE=URL");
        }
        list.addObject()
            .put("title", link.substring(0, equals))
            .put("url", link.substring(equals + 1));
      }
    }
    cleared.forEach(what -> change(changes, what).put("of", of).putNull("value"));
    if (changes.isEmpty()) {
      throw wrong("Nothing to set: give --description, --owner, --tag, --term, --link or --clear");
    }
    return state(changes);
  }

  private void list(ArrayNode changes, String what, List<String> values) {
    if (!values.isEmpty()) {
      ObjectNode change = change(changes, what).put("of", of);
      texts(change, "value", values);
    }
  }
}
