package longthread.service.sql;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** Column lineage of SQL text over HTTP. */
@RestController
class SqlController {
  private final SqlLineage lineage;

  SqlController(SqlLineage lineage) {
    this.lineage = lineage;
  }

  @PostMapping("/api/v1/sql/lineage")
  @Operation(
      operationId = "readSql",
      summary = "Read the lineage out of SQL text; nothing is stored")
  List<SqlLineage.SqlStatementLineage> lineage(@RequestBody SqlLineage.SqlRequest request) {
    return lineage.read(request);
  }
}
