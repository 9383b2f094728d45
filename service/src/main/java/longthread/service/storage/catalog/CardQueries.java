package longthread.service.storage.catalog;

import java.util.Collection;
import java.util.List;
import java.util.function.Consumer;
import longthread.service.storage.BinaryResults;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The cards of datasets and jobs. */
@Repository
@Transactional
public interface CardQueries {
  /** A card as the applier writes it. */
  record Row(
      String ref,
      String kind,
      String system,
      String name,
      @Nullable String title,
      @Nullable String url,
      List<String> owners,
      List<String> tags,
      boolean retired,
      String haystack,
      byte[] body) {}

  /** A card's reference and compressed text. */
  record Body(String ref, byte[] body) {}

  StatelessSession session();

  default void put(Collection<Row> cards) {
    if (!cards.isEmpty()) {
      upsert(
          Columns.texts(cards, Row::ref),
          Columns.texts(cards, Row::kind),
          Columns.texts(cards, Row::system),
          Columns.texts(cards, Row::name),
          Columns.texts(cards, Row::title),
          Columns.texts(cards, Row::url),
          Columns.texts(cards, row -> Columns.joined(row.owners())),
          Columns.texts(cards, row -> Columns.joined(row.tags())),
          Columns.of(cards, Row::retired, Boolean[]::new),
          Columns.texts(cards, Row::haystack),
          Columns.of(cards, Row::body, byte[][]::new));
    }
  }

  @SQL(
      "insert into card (ref, kind, system, name, title, url, owners, tags, retired, haystack, body)"
          + " select c.ref, c.kind, c.system, c.name, c.title, c.url,"
          + " string_to_array(c.owners, chr(31)), string_to_array(c.tags, chr(31)), c.retired,"
          + " c.haystack, c.body from unnest(:refs, :kinds, :systems, :names, :titles, :urls,"
          + " :owners, :tags, :retired, :haystacks, :bodies) as c (ref, kind, system, name, title,"
          + " url, owners, tags, retired, haystack, body)"
          + " on conflict (ref) do update set kind = excluded.kind, system = excluded.system,"
          + " name = excluded.name, title = excluded.title, url = excluded.url,"
          + " owners = excluded.owners, tags = excluded.tags, retired = excluded.retired,"
          + " haystack = excluded.haystack, body = excluded.body")
  int upsert(
      String[] refs,
      String[] kinds,
      String[] systems,
      String[] names,
      String[] titles,
      String[] urls,
      String[] owners,
      String[] tags,
      Boolean[] retired,
      String[] haystacks,
      byte[][] bodies);

  @SQL("select ref, body from card where ref = any(:refs)")
  List<Body> cards(String[] refs);

  /** Those of some references that have a card. */
  @SQL("select ref from card where ref = any(:refs)")
  List<String> known(String[] refs);

  /** Hands all cards to a consumer, a thousand at a time. */
  default void forEach(Consumer<Body> consumer) {
    // Bodies come as text of twice their size otherwise, until a query was made a few times.
    int usual = BinaryResults.always(session());
    try (var cards =
        session().createNativeQuery(ALL, Body.class).setFetchSize(1_000).getResultStream()) {
      cards.forEach(consumer);
    } finally {
      BinaryResults.after(session(), usual);
    }
  }

  String ALL = "select ref, body from card";

  /** The cards whose address in their own tool an address begins with, the longest first. */
  @SQL(
      "select ref from card where url is not null and (:address = url"
          + " or starts_with(:address, url || '?') or starts_with(:address, url || '#')"
          + " or starts_with(:address, url || '/')) order by length(url) desc, ref limit 50")
  List<String> byAddress(String address);
}
