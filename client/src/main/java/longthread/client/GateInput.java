package longthread.client;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;

/** Two versions of SQL files: from files, folders, or a range of git. */
final class GateInput {
  private static final List<String> ENDINGS = List.of(".sql", ".ddl");

  /** Two versions, by path. */
  record Versions(Map<String, String> before, Map<String, String> after) {}

  /** What cannot be read. */
  static final class UnreadableException extends Exception {
    private static final long serialVersionUID = 1;

    UnreadableException(String message) {
      super(message);
    }
  }

  private GateInput() {}

  /** Two versions of one file, or all SQL files of two folders. */
  static Versions of(Path before, Path after) throws UnreadableException {
    if (Files.isRegularFile(before) && Files.isRegularFile(after)) {
      String name = after.toString();
      return new Versions(Map.of(name, text(before)), Map.of(name, text(after)));
    }
    for (Path path : List.of(before, after)) {
      if (!Files.isDirectory(path)) {
        throw new UnreadableException(
            Files.exists(path)
                ? path + " is a file and the other is a folder; give two files or two folders"
                : "there is no file or folder " + path);
      }
    }
    return new Versions(folder(before), folder(after));
  }

  private static Map<String, String> folder(Path folder) throws UnreadableException {
    var files = new TreeMap<String, String>();
    try (Stream<Path> all = Files.walk(folder)) {
      for (Path file : all.filter(Files::isRegularFile).filter(f -> isSql(f.toString())).toList()) {
        files.put(folder.relativize(file).toString(), text(file));
      }
    } catch (IOException e) {
      throw new UnreadableException("cannot read " + folder + ": " + e.getMessage());
    }
    return files;
  }

  private static String text(Path file) throws UnreadableException {
    try {
      return Files.readString(file);
    } catch (IOException e) {
      throw new UnreadableException("cannot read " + file + ": " + e.getMessage());
    }
  }

  private static boolean isSql(String name) {
    return ENDINGS.stream().anyMatch(name.toLowerCase(Locale.ROOT)::endsWith);
  }

  /**
   * The SQL files of both ends of a range: {@code main..HEAD}, or {@code main} alone for what lies
   * between it and the working tree's HEAD.
   *
   * @param under only files below these paths; empty for all
   */
  static Versions ofGit(String range, List<String> under) throws UnreadableException {
    int dots = range.indexOf("..");
    String from = dots < 0 ? range : range.substring(0, dots);
    String to = dots < 0 ? "HEAD" : range.substring(dots + 2).replaceFirst("^\\.", "");
    if (range.startsWith("-") || from.isBlank()) {
      throw new UnreadableException("'" + range + "' is no range of git; write main..HEAD");
    }
    String end = to.isBlank() ? "HEAD" : to;
    if (range.contains("...")) {
      from = git(List.of("merge-base", from, end)).strip();
    }
    return new Versions(tree(from, under), tree(end, under));
  }

  private static Map<String, String> tree(String commit, List<String> under)
      throws UnreadableException {
    var list =
        new ArrayList<>(List.of("ls-tree", "-r", "-z", "--name-only", "--full-tree", commit));
    if (!under.isEmpty()) {
      list.add("--");
      list.addAll(under);
    }
    var files = new TreeMap<String, String>();
    for (String name : git(list).split("\0")) {
      if (isSql(name)) {
        files.put(name, git(List.of("show", commit + ":" + name)));
      }
    }
    return files;
  }

  private static String git(List<String> words) throws UnreadableException {
    var command = new ArrayList<>(List.of("git"));
    command.addAll(words);
    try {
      Process process = new ProcessBuilder(command).redirectErrorStream(false).start();
      process.getOutputStream().close();
      String out;
      try (InputStream in = process.getInputStream()) {
        out = new String(in.readAllBytes(), StandardCharsets.UTF_8);
      }
      String err = new String(process.getErrorStream().readAllBytes(), StandardCharsets.UTF_8);
      if (process.waitFor() != 0) {
        throw new UnreadableException("git " + words.get(0) + " failed: " + err.strip());
      }
      return out;
    } catch (IOException e) {
      throw new UnreadableException("git cannot be run: " + e.getMessage());
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new UnreadableException("interrupted while git ran");
    }
  }
}
