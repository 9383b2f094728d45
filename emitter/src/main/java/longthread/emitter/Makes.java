package longthread.emitter;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/** Marks a method that makes data; see {@link Emitter#watch}. Each call of it is a run. */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface Makes {
  /** What it writes, as {@code namespace/name}. */
  String[] value();

  /** What it reads, as {@code namespace/name}. */
  String[] reads() default {};

  /** The name of its job; the method's name if it is empty. */
  String job() default "";

  /** Whether the number that the method returns is how many rows it wrote. */
  boolean returnsRows() default false;

  /** Further properties, each as {@code name=value}. */
  String[] properties() default {};
}
