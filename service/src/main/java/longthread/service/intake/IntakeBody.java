package longthread.service.intake;

import jakarta.servlet.http.HttpServletRequest;
import java.io.EOFException;
import java.io.IOException;
import java.io.InputStream;
import java.util.Locale;
import java.util.zip.GZIPInputStream;
import java.util.zip.ZipException;
import longthread.service.web.ProblemException;
import longthread.service.web.SlowBody;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.util.FastByteArrayOutputStream;

/** The bytes of a post, unpacked and bounded. */
public final class IntakeBody {
  private static final int PIECE_BYTES = 16_384;

  /** So much of each body is not counted: most are smaller. */
  private static final int UNCOUNTED_BYTES = 262_144;

  private IntakeBody() {}

  /**
   * Reads a body to its end.
   *
   * @param most how many bytes it may have, unpacked
   * @param post gets the memory that the body takes
   * @throws ProblemException if it is larger, empty, or packed in a way that is not known
   */
  public static byte[] read(HttpServletRequest request, long most, IntakeLimits.Post post)
      throws IOException {
    var time = new SlowBody();
    long arrived = 0;
    try (InputStream in =
        isGzip(request)
            ? new GZIPInputStream(request.getInputStream())
            : request.getInputStream()) {
      var out = new FastByteArrayOutputStream(PIECE_BYTES); // grows without copying
      byte[] piece = new byte[PIECE_BYTES];
      for (int n = in.read(piece); n >= 0; n = in.read(piece)) {
        arrived += n;
        time.check(arrived);
        if (arrived > UNCOUNTED_BYTES) {
          post.hold(arrived);
        }
        out.write(piece, 0, n);
        if (out.size() > most) {
          throw new ProblemException(
              HttpStatus.CONTENT_TOO_LARGE,
              "too-large",
              "The body is too large",
              "the body has more than " + most + " bytes; send less at once, or smaller facets");
        }
      }
      if (out.size() == 0) {
        throw ProblemException.badRequest("empty-body", "the body is empty; send an event as JSON");
      }
      return out.toByteArray();
    } catch (ZipException | EOFException e) {
      throw ProblemException.badRequest(
          "bad-gzip", "the body is said to be gzip but does not unpack; send it whole");
    }
  }

  private static boolean isGzip(HttpServletRequest request) {
    String encoding = request.getHeader(HttpHeaders.CONTENT_ENCODING);
    if (encoding == null || encoding.equalsIgnoreCase("identity")) {
      return false;
    }
    if (encoding.toLowerCase(Locale.ROOT).contains("gzip")) {
      return true;
    }
    throw ProblemException.badRequest(
        "unknown-encoding", "Content-Encoding " + encoding + " is not known; send gzip or none");
  }
}
