package longthread.core.label;

import java.math.BigInteger;
import java.util.Collection;
import java.util.HashSet;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What values of a column look like, where their form alone gives them away. Only kinds that chance
 * hardly makes are here: of dates and names no form says whose they are.
 */
public enum ValueKind {
  /** A name at a domain (RFC 5322, the form that people use). */
  EMAIL(
      "personal",
      "e-mail addresses",
      matching(
          "[A-Za-z0-9.!#$%&'*+/=?^_`{|}~-]{1,64}@[A-Za-z0-9-]+(\\.[A-Za-z0-9-]+)*\\.[A-Za-z]{2,}")),
  /** An account number with the check digits of ISO 13616 (remainder 1 by 97). */
  IBAN("personal", "IBANs", ValueKind::isIban),
  /** A payment card's number of 13 to 19 digits (ISO/IEC 7812, check digit by Luhn). */
  CARD("personal", "card numbers", ValueKind::isCard),
  /** A number as it is dialled from abroad (ITU-T E.164): a plus sign and 8 to 15 digits. */
  PHONE("personal", "phone numbers", ValueKind::isPhone);

  private static final int MIN_VALUES = 5;
  private static final int MIN_DISTINCT = 3;
  private static final double MIN_SHARE = 0.8;
  private static final int MAX_LENGTH = 254; // of an address; longer texts are none of these

  private final String label;
  private final String words;
  private final Predicate<String> fits;

  ValueKind(String label, String words, Predicate<String> fits) {
    this.label = label;
    this.words = words;
    this.fits = fits;
  }

  /** The id of the shipped label that such values mostly have. */
  public String label() {
    return label;
  }

  /** What people call them, such as {@code e-mail addresses}. */
  public String words() {
    return words;
  }

  /** The word in the interface. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /**
   * What some values look like.
   *
   * @param matched how many of them do
   * @param looked how many there were, empty ones left out
   */
  public record Looks(ValueKind kind, int matched, int looked) {}

  /**
   * What values look like: the kind that most of them have, four fifths at least, of five values or
   * more among which three differ. Empty if there is none. Takes time linear in their letters.
   */
  public static Optional<Looks> of(Collection<@Nullable String> values) {
    var distinct = new HashSet<String>();
    int[] matched = new int[values().length];
    int looked = 0;
    for (String value : values) {
      String text = value == null ? "" : value.strip();
      if (text.isEmpty()) {
        continue;
      }
      looked++;
      distinct.add(text);
      for (ValueKind kind : values()) {
        if (text.length() <= MAX_LENGTH && kind.fits.test(text)) {
          matched[kind.ordinal()]++;
        }
      }
    }
    ValueKind best = null;
    for (ValueKind kind : values()) {
      if (best == null || matched[kind.ordinal()] > matched[best.ordinal()]) {
        best = kind;
      }
    }
    boolean isEnough = looked >= MIN_VALUES && distinct.size() >= MIN_DISTINCT;
    return isEnough && best != null && matched[best.ordinal()] >= MIN_SHARE * looked
        ? Optional.of(new Looks(best, matched[best.ordinal()], looked))
        : Optional.empty();
  }

  private static Predicate<String> matching(String pattern) {
    return Pattern.compile(pattern).asMatchPredicate();
  }

  private static boolean isIban(String text) {
    String plain = text.replace(" ", "");
    if (!plain.matches("[A-Z]{2}[0-9]{2}[A-Z0-9]{11,30}")) {
      return false;
    }
    var digits = new StringBuilder();
    (plain.substring(4) + plain.substring(0, 4))
        .chars()
        .forEach(c -> digits.append(Character.digit(c, Character.MAX_RADIX)));
    return new BigInteger(digits.toString()).mod(BigInteger.valueOf(97)).intValue() == 1;
  }

  private static boolean isCard(String text) {
    String digits = text.replaceAll("[ -]", "");
    if (!digits.matches("[2-6][0-9]{12,18}")) { // the leading digits of payment cards
      return false;
    }
    int sum = 0;
    for (int i = 0; i < digits.length(); i++) {
      int digit = digits.charAt(digits.length() - 1 - i) - '0';
      int doubled = 2 * digit;
      sum += i % 2 == 0 ? digit : doubled > 9 ? doubled - 9 : doubled;
    }
    return sum % 10 == 0;
  }

  private static boolean isPhone(String text) {
    return text.matches("\\+[1-9][0-9 ().-]{6,24}")
        && text.replaceAll("[^0-9]", "").matches("[0-9]{8,15}");
  }
}
