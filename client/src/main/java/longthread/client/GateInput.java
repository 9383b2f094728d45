package longthread.client;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

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
      throw new UnreadableException("cannot read " + folder + ": " + FileWords.why(e));
    }
    return files;
  }

  private static String text(Path file) throws UnreadableException {
    try {
      return Files.readString(file);
    } catch (IOException e) {
      throw new UnreadableException("cannot read " + file + ": " + FileWords.why(e));
    }
  }

  private static boolean isSql(String name) {
    return ENDINGS.stream().anyMatch(name.toLowerCase(Locale.ROOT)::endsWith);
  }

  /**
   * The SQL files of both ends of a range: {@code main..HEAD}, or {@code main} alone for what lies
   * between it and the working tree's HEAD.
   *
   * @param where a folder of the repository
   * @param under only files below these paths; empty for all
   */
  static Versions ofGit(Path where, String range, List<String> under) throws UnreadableException {
    int dots = range.indexOf("..");
    String from = dots < 0 ? range : range.substring(0, dots);
    String to = dots < 0 ? "HEAD" : range.substring(dots + 2).replaceFirst("^\\.", "");
    if (range.startsWith("-") || from.isBlank()) {
      throw new UnreadableException("'" + range + "' is no range of git; write main..HEAD");
    }
    String end = to.isBlank() ? "HEAD" : to;
    if (range.contains("...")) {
      from =
          new String(git(where, List.of("merge-base", from, end), null), StandardCharsets.UTF_8)
              .strip();
    }
    return new Versions(tree(where, from, under), tree(where, end, under));
  }

  private static Map<String, String> tree(Path where, String commit, List<String> under)
      throws UnreadableException {
    var list = new ArrayList<>(List.of("ls-tree", "-r", "-z", "--full-tree", commit));
    if (!under.isEmpty()) {
      list.add("--");
      list.addAll(under);
    }
    // An entry is: mode, type, object id, a tab, and the name with whatever characters it has.
    var ids = new LinkedHashMap<String, String>();
    for (String entry : new String(git(where, list, null), StandardCharsets.UTF_8).split("\0")) {
      int tab = entry.indexOf('\t');
      String[] head = tab < 0 ? new String[0] : entry.substring(0, tab).split(" ");
      if (head.length == 3 && head[1].equals("blob") && isSql(entry.substring(tab + 1))) {
        ids.put(entry.substring(tab + 1), head[2]);
      }
    }
    return contents(where, commit, ids);
  }

  /** The texts of files of a commit by their ids, read by one process however many they are. */
  private static Map<String, String> contents(Path where, String commit, Map<String, String> ids)
      throws UnreadableException {
    var files = new TreeMap<String, String>();
    if (ids.isEmpty()) {
      return files;
    }
    String asked = String.join("\n", ids.values()) + "\n";
    byte[] answer = git(where, List.of("cat-file", "--batch"), asked);
    int at = 0;
    for (String name : ids.keySet()) {
      int end = at;
      while (end < answer.length && answer[end] != '\n') {
        end++;
      }
      String[] head = new String(answer, at, end - at, StandardCharsets.UTF_8).split(" ");
      if (head.length != 3 || !head[1].equals("blob")) {
        throw new UnreadableException("git has no file " + name + " in " + commit);
      }
      int size = Integer.parseInt(head[2]);
      files.put(name, new String(answer, end + 1, size, StandardCharsets.UTF_8));
      at = end + 1 + size + 1;
    }
    return files;
  }

  private static byte[] git(Path where, List<String> words, @Nullable String input)
      throws UnreadableException {
    var command = new ArrayList<>(List.of("git"));
    command.addAll(words);
    Path given = null;
    try {
      given = Files.createTempFile("gate", ".txt");
      Files.writeString(given, input == null ? "" : input);
      Process process =
          new ProcessBuilder(command)
              .directory(where.toFile())
              .redirectInput(given.toFile())
              .start();
      byte[] out;
      try (InputStream in = process.getInputStream()) {
        out = in.readAllBytes();
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
    } finally {
      if (given != null) {
        given.toFile().delete();
      }
    }
  }
}
