package longthread.core.sql;

import net.sf.jsqlparser.expression.BooleanValue;
import net.sf.jsqlparser.expression.DateTimeLiteralExpression;
import net.sf.jsqlparser.expression.DateValue;
import net.sf.jsqlparser.expression.DoubleValue;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.ExpressionVisitorAdapter;
import net.sf.jsqlparser.expression.HexValue;
import net.sf.jsqlparser.expression.JdbcNamedParameter;
import net.sf.jsqlparser.expression.JdbcParameter;
import net.sf.jsqlparser.expression.LongValue;
import net.sf.jsqlparser.expression.NextValExpression;
import net.sf.jsqlparser.expression.NullValue;
import net.sf.jsqlparser.expression.NumericBind;
import net.sf.jsqlparser.expression.StringValue;
import net.sf.jsqlparser.expression.TimeKeyExpression;
import net.sf.jsqlparser.expression.TimeValue;
import net.sf.jsqlparser.expression.TimestampValue;
import net.sf.jsqlparser.expression.UserVariable;

/** Takes the literals of an expression, whatever kind the parser says they are. */
abstract class LiteralVisitor extends ExpressionVisitorAdapter<Void> {
  /** A value that stands in the text itself, or is given when the statement is run. */
  protected abstract void literal(Expression expression);

  @Override
  public <S> Void visit(NullValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(LongValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(DoubleValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(HexValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(StringValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(BooleanValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(DateValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(TimeValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(TimestampValue value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(DateTimeLiteralExpression value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(TimeKeyExpression value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(JdbcParameter value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(JdbcNamedParameter value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(UserVariable value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(NumericBind value, S nothing) {
    literal(value);
    return null;
  }

  @Override
  public <S> Void visit(NextValExpression value, S nothing) {
    literal(value);
    return null;
  }
}
