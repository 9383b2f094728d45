package longthread.core.asset;

import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Someone answerable for an asset.
 *
 * @param name as shown, without prefix and address
 * @param what {@code person}, {@code team} or {@code text} where neither is reported
 * @param role what they are to the asset, in the emitter's word
 * @param address where to reach them
 */
public record Owner(String name, String what, @Nullable String role, @Nullable String address) {
  public Owner {
    name = name.intern(); // few people own many things
    what = what.intern();
    role = role == null ? null : role.intern();
    address = address == null ? null : address.intern();
  }

  private static final Pattern PREFIXED =
      Pattern.compile("(?i)^(team|group|user|person):\\s*(.+)$", Pattern.DOTALL);
  private static final Pattern ADDRESSED =
      Pattern.compile("^(.*?)\\s*<([^<>\\s]+)>\\s*$", Pattern.DOTALL);
  private static final Pattern MAIL = Pattern.compile("^[^\\s@]+@[^\\s@]+\\.[^\\s@]+$");

  /**
   * Reads an owner's name as emitters spell it: {@code team:x}, {@code user:y}, {@code N <a@b>}.
   */
  public static Owner of(String text, @Nullable String role) {
    String what = "text";
    String name = text.strip();
    Matcher prefixed = PREFIXED.matcher(name);
    if (prefixed.matches()) {
      boolean team = prefixed.group(1).matches("(?i)team|group");
      what = team ? "team" : "person";
      name = prefixed.group(2).strip();
    }
    Matcher addressed = ADDRESSED.matcher(name);
    if (addressed.matches() && !addressed.group(1).isBlank()) {
      return new Owner(
          addressed.group(1), what.equals("text") ? "person" : what, role, addressed.group(2));
    }
    if (MAIL.matcher(name).matches()) {
      return new Owner(name, what.equals("text") ? "person" : what, role, name);
    }
    return new Owner(name, what, role, null);
  }
}
