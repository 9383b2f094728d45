package longthread.service.storage.catalog;

import java.util.List;
import org.hibernate.StatelessSession;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Finds cards by words; as many conditions as there are words, so put together at run time. */
@Repository
@Transactional // the threshold is set for the transaction
public class CardSearch {
  /** How alike a typed word and a stored one must be, from 0 to 1, to count as a typing slip. */
  private static final double SIMILARITY = 0.42;

  private final StatelessSession session;

  CardSearch(StatelessSession session) {
    this.session = session;
  }

  /** The references of cards in whose text all of the words stand, or something like them. */
  public List<String> withAll(List<String> words, int most) {
    return with(words, " and ", most);
  }

  /** The references of cards in whose text any of the words stands, or something like it. */
  public List<String> withAny(List<String> words, int most) {
    return with(words, " or ", most);
  }

  private List<String> with(List<String> words, String join, int most) {
    var sql = new StringBuilder("select ref from card where ");
    sql.append(join.equals(" and "));
    for (int i = 0; i < words.size(); i++) {
      sql.append(join)
          .append("(haystack like :like%d escape '!' or :word%d <%% haystack)".formatted(i, i));
    }
    session
        .createNativeQuery("select set_config(:name, :value, true)", String.class)
        .setParameter("name", "pg_trgm.word_similarity_threshold")
        .setParameter("value", String.valueOf(SIMILARITY))
        .getSingleResult();
    var query = session.createNativeQuery(sql.append(" limit :most").toString(), String.class);
    for (int i = 0; i < words.size(); i++) {
      query.setParameter("like" + i, "%" + escaped(words.get(i)) + "%");
      query.setParameter("word" + i, words.get(i));
    }
    return query.setParameter("most", most).getResultList();
  }

  private static String escaped(String word) {
    return word.replace("!", "!!").replace("%", "!%").replace("_", "!_");
  }
}
