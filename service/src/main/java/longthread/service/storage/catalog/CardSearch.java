package longthread.service.storage.catalog;

import java.util.List;
import org.hibernate.StatelessSession;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Finds cards by the likeness of their words. */
@Repository
@Transactional // thresholds and time limits are set for the transaction
public class CardSearch {
  private static final double SOMEWHAT_ALIKE = 0.3;
  private static final int LONGEST_NAME = 64;
  private static final int HINT_MILLIS = 1_000;

  private final StatelessSession session;

  CardSearch(StatelessSession session) {
    this.session = session;
  }

  /**
   * The references of cards that are most alike the end of a text, the most alike first. Only the
   * end is compared, by the index, and for a second at most: this is a hint, whatever was typed.
   *
   * @param text in small letters
   * @throws org.springframework.dao.DataAccessException if it takes longer than that
   */
  public List<String> nearest(String text, int most) {
    String name = text.substring(text.lastIndexOf('/', text.length() - 2) + 1);
    String end = name.substring(Math.max(0, name.length() - LONGEST_NAME));
    set("pg_trgm.word_similarity_threshold", String.valueOf(SOMEWHAT_ALIKE));
    set("statement_timeout", String.valueOf(HINT_MILLIS));
    return session
        .createNativeQuery(
            "select ref from card where :text <% haystack"
                + " order by word_similarity(:text, haystack) desc, ref limit :most",
            String.class)
        .setParameter("text", end)
        .setParameter("most", most)
        .getResultList();
  }

  private void set(String name, String value) {
    session
        .createNativeQuery("select set_config(:name, :value, true)", String.class)
        .setParameter("name", name)
        .setParameter("value", value)
        .getSingleResult();
  }
}
