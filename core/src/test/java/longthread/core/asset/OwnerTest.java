package longthread.core.asset;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class OwnerTest {
  @ParameterizedTest
  @CsvSource(
      nullValues = "-",
      value = {
        "team:Payout office <pay@x.example>, Payout office, team, pay@x.example",
        "user:ada, ada, person, -",
        "Ida Thwaite <ida@x.example>, Ida Thwaite, person, ida@x.example",
        "ida@x.example, ida@x.example, person, ida@x.example",
        "the night crew, the night crew, text, -",
        "group: ops, ops, team, -",
      })
  void an_owner_is_a_person_a_team_or_plain_text(
      String spelled, String name, String what, String address) {
    assertThat(Owner.of(spelled, "OWNER")).isEqualTo(new Owner(name, what, "OWNER", address));
  }
}
