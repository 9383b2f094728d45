package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

class GrantCommandTest extends AgainstServer {
  private static final String GRANT =
      "{\"id\":7,\"holderKind\":\"group\",\"holder\":\"payments\",\"role\":\"steward\","
          + "\"scope\":\"workspace\",\"value\":\"Farm Payments\",\"grantedBy\":\"admin\","
          + "\"grantedAt\":\"2026-05-01T00:00:00Z\"}";

  @Test
  void a_grant_is_given_to_an_account_a_group_or_a_key() {
    answer = GRANT;
    Said given =
        run(
            "grant",
            "give",
            "--group",
            "payments",
            "--role",
            "steward",
            "--workspace",
            "Farm Payments",
            "--until",
            "2031-05-31");
    assertThat(given.code()).isZero();
    assertThat(given.out()).contains("workspace Farm Payments", "steward", "payments");
    assertThat(asked.get(0).line()).isEqualTo("POST /api/v1/grants");
    assertThat(asked.get(0).body())
        .contains("\"holderKind\":\"group\"", "\"scope\":\"workspace\"", "2031-05-31T23:59:59Z");
    run("grant", "give", "cass", "--role", "reader", "--system", "barn");
    assertThat(asked.get(1).body())
        .contains("\"holderKind\":\"account\"", "\"holder\":\"cass\"", "\"value\":\"barn\"");
    run("grant", "give", "--key", "k", "--role", "auditor", "--everything");
    assertThat(asked.get(2).body()).contains("\"holderKind\":\"key\"", "\"scope\":\"everything\"");
  }

  @Test
  void what_is_no_grant_is_wrong_usage_and_asks_nothing() {
    assertThat(run("grant", "give", "cass", "--role", "reader").code()).isEqualTo(2);
    assertThat(run("grant", "give", "--role", "reader", "--system", "barn").code()).isEqualTo(2);
    assertThat(run("grant", "give", "cass", "--role", "limited", "--system", "barn").err())
        .contains("Unknown word 'limited'");
    assertThat(
            run("grant", "give", "cass", "--role", "reader", "--system", "a", "--label", "b")
                .code())
        .isEqualTo(2);
    assertThat(asked).isEmpty();
  }

  @Test
  void grants_are_listed_and_ended() {
    answer = "{\"items\":[" + GRANT + "],\"total\":1}";
    assertThat(run("grant", "list", "--group", "payments", "--csv").out())
        .contains("\"workspace Farm Payments\"");
    assertThat(asked.get(0).line()).contains("holderKind=group", "holder=payments");
    assertThat(run("grant", "end", "7").code()).isZero();
    assertThat(asked.get(1).line()).isEqualTo("DELETE /api/v1/grants?id=7");
    answer = "{\"items\":[],\"total\":0}";
    assertThat(run("grant", "list").err()).contains("nobody holds a grant");
  }

  @Test
  void groups_are_made_filled_and_deleted() {
    answer =
        "{\"name\":\"payments\",\"title\":\"Payout office\",\"members\":[\"ida\"],"
            + "\"fromProvider\":[\"cass\"]}";
    assertThat(run("group", "make", "payments", "--called", "Payout office").out())
        .contains("Payout office", "ida", "cass");
    run("group", "add", "payments", "ida");
    run("group", "remove", "payments", "ida");
    run("group", "delete", "payments");
    assertThat(asked)
        .extracting(AgainstServer.Asked::line)
        .contains("PUT /api/v1/groups", "PUT /api/v1/groups/members");
    assertThat(asked.get(2).line()).startsWith("DELETE /api/v1/groups/members?");
    assertThat(asked.get(3).line()).isEqualTo("DELETE /api/v1/groups?name=payments");
    answer = "{\"items\":[" + answer + "],\"total\":1}";
    assertThat(run("group", "list").out()).contains("payments");
  }
}
