package longthread.core.asset;

/** What a name may not be, whoever sends it. */
final class Names {
  static final int LONGEST = 2_000;

  private Names() {}

  static void check(String text, String what) {
    if (text.isEmpty()) {
      throw new BadNameException("the " + what + " is empty");
    }
    if (text.length() > LONGEST) {
      throw new BadNameException(
          "the "
              + what
              + " has "
              + text.length()
              + " characters; at most "
              + LONGEST
              + " are kept");
    }
    for (int at = 0; at < text.length(); at++) {
      char c = text.charAt(at);
      if (Character.isHighSurrogate(c)
          && at + 1 < text.length()
          && Character.isLowSurrogate(text.charAt(at + 1))) {
        at++;
      } else if (Character.isSurrogate(c)) {
        throw new BadNameException(
            "the " + what + " holds half of a surrogate pair, which no text can store");
      }
    }
  }
}
