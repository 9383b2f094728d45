package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * What a statement writes, noted as it is found, and what that makes known to the statements after
 * it.
 */
final class Writes {
  private final int number;
  private final Context context;
  private final List<SqlStatement> statements = new ArrayList<>();

  Writes(int number, Context context) {
    this.number = number;
    this.context = context;
  }

  List<SqlStatement> statements() {
    return statements;
  }

  /** Notes what a relation writes to a table, and makes it known to what follows. */
  void write(String kind, List<Ident> target, Relation rows, List<Field> fields) {
    boolean temporary = context.tables().isTemporaryName(target);
    String name = temporary ? Ident.dotted(target) : context.tables().fullName(target).name();
    boolean create = kind.startsWith("create");
    emit(temporary && create ? "create-temporary" : kind, name, temporary, rows, fields);
    if (temporary) {
      context.tables().putTemporary(target, temporary(name, rows));
    } else if (create) {
      context.tables().created(target, columnsOf(fields, rows));
    }
  }

  private static List<KnownColumn> columnsOf(List<Field> fields, Relation rows) {
    return rows.open()
        ? List.of()
        : fields.stream().map(f -> new KnownColumn(f.name(), f.type())).toList();
  }

  void emit(
      String kind, @Nullable String target, boolean temporary, Relation rows, List<Field> fields) {
    var shown = new ArrayList<>(fields);
    for (String unknown : unknownBehind(rows, new HashSet<>())) {
      context.problem(
          "The columns of " + unknown + " are not known, so * cannot be expanded.", null);
    }
    if (rows.open() && rows.stars().size() > 0) {
      shown.add(rows.findOrMake(new Ident("*", true)));
    }
    Origins.Result found = Origins.of(rows, shown);
    statements.add(
        new SqlStatement(
            number,
            context.span(),
            kind,
            target,
            temporary,
            found.outputs(),
            found.rows(),
            context.named(),
            found.reads(),
            found.steps(),
            context.problems().isEmpty(),
            List.copyOf(context.problems())));
  }

  private static List<String> unknownBehind(Relation rows, Set<Relation> seen) {
    var names = new ArrayList<String>();
    for (Relation star : rows.stars()) {
      if (!seen.add(star)) {
        continue;
      }
      if (star.stars().isEmpty()) {
        names.add(star.name());
      } else {
        names.addAll(unknownBehind(star, seen));
      }
    }
    return names;
  }

  /** A temporary table that holds the rows of a query. */
  private static Relation temporary(String name, Relation rows) {
    var table = new Relation(Relation.Kind.TEMPORARY, name, rows.span());
    for (Field field : rows.fields()) {
      if (rows.isKnown(field)) {
        table.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
      }
    }
    if (rows.open()) {
      table.addStar(rows);
    }
    table.from.add(rows);
    return table;
  }

  void intoTemporary(String kind, List<Ident> target, Relation rows) {
    String name = Ident.dotted(target);
    emit(kind, name, true, rows, rows.fields());
    context.tables().putTemporary(target, temporary(name, rows));
  }

  void wrote(String kind, List<Ident> target, Relation rows) {
    Relation before = context.tables().temporary(target);
    if (before != null || context.tables().isTemporaryName(target)) {
      String name = before != null ? before.name() : Ident.dotted(target);
      emit(kind, name, true, rows, rows.fields());
      context.tables().putTemporary(target, grown(name, before, rows));
      return;
    }
    emit(kind, context.tables().fullName(target).name(), false, rows, rows.fields());
  }

  /** Notes a change of rows that are there. */
  void changed(String kind, List<Ident> target, Relation table, Relation result, boolean rowsGo) {
    if (table.isTable()) {
      boolean named = target.size() == 1 && target.get(0).exact();
      String name = named ? target.get(0).name() : context.tables().fullName(target).name();
      emit(kind, name, false, result, result.fields());
      return;
    }
    emit(kind, table.name(), true, result, result.fields());
    Relation after = grown(table.name(), table, result);
    if (rowsGo) {
      after.rows.addDeciding(result.rows, Flow.FILTER);
      after.from.remove(result);
    } else if (kind.equals("update")) {
      // What chooses the rows to update decides the values of those columns, not which rows are
      // there.
      after.from.remove(result);
      for (Field set : result.fields()) {
        Field field = after.find(new Ident(set.name(), false));
        if (field != null) {
          field.uses().rowsOf.add(result);
        }
      }
    }
    context.tables().putTemporary(target, after);
  }

  /** A temporary table after more rows came in, or some of its columns were set anew. */
  private static Relation grown(String name, @Nullable Relation before, Relation rows) {
    if (before == null) {
      return temporary(name, rows);
    }
    var table = new Relation(Relation.Kind.TEMPORARY, name, rows.span());
    for (Field field : before.fields()) {
      Uses uses = Uses.of(field, Flow.IDENTITY);
      Field more = rows.find(new Ident(field.name(), false));
      if (more != null) {
        uses.add(Uses.of(more, Flow.IDENTITY));
      }
      table.add(field.name(), field.type(), uses, null);
    }
    if (before.open()) {
      before.stars().forEach(table::addStar);
      for (Field field : rows.fields()) {
        if (before.find(new Ident(field.name(), false)) == null) {
          table.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
        }
      }
    }
    table.from.add(before);
    table.from.add(rows);
    return table;
  }

  void emptied(List<Ident> target) {
    Relation before = context.tables().temporary(target);
    if (before != null) {
      var empty = new Relation(Relation.Kind.TEMPORARY, before.name(), context.span());
      before.fields().forEach(f -> empty.add(f.name(), f.type(), new Uses(), null));
      context.tables().putTemporary(target, empty);
    }
  }

  void rename(List<Ident> from, List<Ident> to) {
    String old = context.tables().fullName(from).name();
    context.tables().rename(from, to);
    context.tables().renamed(number, old, to);
  }
}
