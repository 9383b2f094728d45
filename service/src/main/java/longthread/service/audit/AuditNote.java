package longthread.service.audit;

import org.jspecify.annotations.Nullable;
import org.springframework.web.context.request.RequestAttributes;
import org.springframework.web.context.request.RequestContextHolder;

/** What a call is about, said by whoever answers it, for the entry in the audit log. */
public final class AuditNote {
  static final String ABOUT = AuditNote.class.getName() + ".about";
  static final String WHO = AuditNote.class.getName() + ".who";
  static final String DETAIL = AuditNote.class.getName() + ".detail";

  private AuditNote() {}

  /** Says what the present request is about: a name, a reference. */
  public static void about(@Nullable String about) {
    set(ABOUT, about);
  }

  /** Says who the caller turned out to be, where the call itself is what makes that known. */
  public static void who(String name, String role) {
    set(WHO, name + "\n" + role);
  }

  /** Says more of what the present request did. */
  public static void detail(@Nullable String detail) {
    set(DETAIL, detail);
  }

  private static void set(String name, @Nullable String text) {
    RequestAttributes request = RequestContextHolder.getRequestAttributes();
    if (request != null && text != null) {
      request.setAttribute(name, text, RequestAttributes.SCOPE_REQUEST);
    }
  }
}
