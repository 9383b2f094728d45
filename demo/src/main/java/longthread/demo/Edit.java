package longthread.demo;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Changes a workspace of the BI stand-in by hand, from the command line. */
@Command(name = "edit", description = "Changes a workspace of the BI stand-in.")
public final class Edit implements Callable<Integer> {
  @Parameters(index = "0", description = "the workspace's id")
  private String workspace = "";

  @Parameters(index = "1", description = "a place in its description, such as /models/0/title")
  private String pointer = "";

  @Parameters(index = "2", arity = "0..1", description = "the new value; none takes it away")
  private @Nullable String value;

  @Option(names = "--home", required = true)
  private Path home = Path.of("");

  public static void main(String[] args) {
    System.exit(new CommandLine(new Edit()).execute(args));
  }

  @Override
  public Integer call() throws IOException, InterruptedException {
    Map<String, String> form = new LinkedHashMap<>();
    form.put("workspace", workspace);
    form.put("pointer", pointer);
    form.put(value == null ? "remove" : "value", value == null ? "1" : value);
    String port = Files.readString(home.resolve("sightglass.port")).strip();
    HttpResponse<String> answer =
        HttpClient.newHttpClient()
            .send(
                HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + port + "/edit"))
                    .header("Content-Type", "application/x-www-form-urlencoded")
                    .POST(HttpRequest.BodyPublishers.ofString(SightglassServer.body(form)))
                    .build(),
                HttpResponse.BodyHandlers.ofString());
    boolean isDone = answer.statusCode() == 200;
    (isDone ? System.out : System.err).print(answer.body());
    return isDone ? 0 : 1;
  }
}
