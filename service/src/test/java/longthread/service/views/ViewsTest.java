package longthread.service.views;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(RunningService.Extension.class)
class ViewsTest {
  private static final String PATH = "/api/v1/views";

  private final RunningService service;

  ViewsTest(RunningService service) {
    this.service = service;
  }

  private Api someone() {
    String body = "{\"name\":\"viewer-" + UUID.randomUUID() + "\",\"role\":\"reader\"}";
    JsonNode key =
        service.api().post("/api/v1/keys", body, "Content-Type", "application/json").json();
    return new Api(service.base(), key.path("token").stringValue(""));
  }

  private static Api.Answer save(Api api, String name, boolean shared, String more) {
    String body =
        "{'name':'%s','shared':%s,'settings':{'detail':'steps'}%s}".formatted(name, shared, more);
    return api.send("PUT", PATH, body.replace('\'', '"'));
  }

  @Test
  void a_view_is_saved_replaced_listed_and_deleted() {
    Api me = someone();
    assertThat(save(me, "Nightly", false, ",'defaultFor':['table']").status()).isEqualTo(200);
    assertThat(save(me, "Nightly", false, "").status()).isEqualTo(200);
    JsonNode items = me.get(PATH).json().path("items");
    assertThat(items).hasSize(1);
    assertThat(items.path(0).path("settings").path("detail").stringValue("")).isEqualTo("steps");
    assertThat(items.path(0).path("defaultFor")).isEmpty();
    assertThat(me.delete(PATH + "?name=Nightly").status()).isEqualTo(200);
    assertThat(me.get(PATH).json().path("items")).isEmpty();
    assertThat(me.delete(PATH + "?name=Nightly").status()).isEqualTo(404);
  }

  @Test
  void others_see_what_is_shared_and_cannot_delete_it() {
    Api me = someone();
    Api other = someone();
    String name = "Shared " + UUID.randomUUID();
    save(me, name, true, "");
    save(me, "Private", false, "");
    String seen = other.get(PATH, "limit", "1000").json().path("items").toString();
    assertThat(seen).contains(name).doesNotContain("Private");
    assertThat(other.delete(PATH + "?name=" + name.replace(" ", "%20")).status()).isEqualTo(404);
    me.delete(PATH + "?name=" + name.replace(" ", "%20"));
  }

  @Test
  void what_a_view_cannot_set_is_refused_with_what_it_can() {
    Api me = someone();
    assertThat(save(me, "", false, "").status()).isEqualTo(400);
    assertThat(save(me, "a", false, ",'defaultFor':['tabel']").detail()).contains("dashboard");
    Api.Answer answer = me.send("PUT", PATH, "{\"name\":\"a\",\"settings\":{\"colour\":\"red\"}}");
    assertThat(answer.status()).isEqualTo(400);
    assertThat(answer.detail()).contains("colour").contains("detail");
  }
}
