package longthread.client;

import java.util.List;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** The role of what is made: a closed word, checked when it is parsed. */
final class RoleOption {
  static final List<String> ROLES =
      List.of("reader", "auditor", "steward", "emitter", "admin", "limited");

  @Spec(Spec.Target.MIXEE)
  private CommandSpec spec = CommandSpec.create();

  private String role = "";

  @Option(
      names = "--role",
      required = true,
      paramLabel = "ROLE",
      description =
          "reader, auditor, steward, emitter or admin; limited for what grants say alone.")
  void setRole(String role) {
    ClosedWords.check(spec, "--role", role, ROLES);
    this.role = role;
  }

  String role() {
    return role;
  }
}
