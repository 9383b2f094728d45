package longthread.core.sql;

import java.util.List;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.statement.select.ExceptOp;
import net.sf.jsqlparser.statement.select.IntersectOp;
import net.sf.jsqlparser.statement.select.MinusOp;
import net.sf.jsqlparser.statement.select.SetOperation;

/** How the branches of a set operation come together; INTERSECT binds tighter than the others. */
final class SetOperations {

  private final List<SetOperation> operations;

  SetOperations(List<SetOperation> operations) {
    this.operations = operations;
  }

  /** Whether the values of that branch arrive in the result. */
  boolean yields(int branch) {
    for (int i = branch - 1; i >= 0; i--) {
      SetOperation operation = operations.get(i);
      if (isMinus(operation)) {
        return false;
      }
      if (!(operation instanceof IntersectOp)) {
        return true;
      }
      if (i == branch - 1) {
        return false;
      }
    }
    return true;
  }

  private static boolean isMinus(SetOperation operation) {
    return operation instanceof ExceptOp || operation instanceof MinusOp;
  }

  /** Whether the values of the branch decide which rows stay. */
  void decideRows(Relation result, List<Relation> branches) {
    for (int i = 0; i < operations.size(); i++) {
      SetOperation operation = operations.get(i);
      boolean filters = isMinus(operation) || operation instanceof IntersectOp;
      if (!filters && operation.isAll()) {
        continue;
      }
      Flow flow = filters ? Flow.FILTER : Flow.GROUP_BY;
      for (int side = 0; side <= i + 1; side++) {
        boolean near = side >= i || !(operation instanceof IntersectOp);
        if (near) {
          for (Field field : branches.get(side).fields()) {
            result.rows.addDeciding(Uses.of(field, Flow.IDENTITY), flow);
          }
        }
      }
    }
  }
}
