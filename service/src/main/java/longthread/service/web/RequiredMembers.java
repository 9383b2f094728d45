package longthread.service.web;

import io.swagger.v3.oas.models.media.Schema;
import java.lang.reflect.Modifier;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.springdoc.core.customizers.GlobalOpenApiCustomizer;
import org.springframework.context.ApplicationContext;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.web.bind.annotation.RestController;

/**
 * Marks as required, in the published description, the members of answers that are never left out:
 * those whose record component may not be null.
 */
@Configuration
class RequiredMembers {
  @Bean
  GlobalOpenApiCustomizer markRequiredMembers(ApplicationContext context) {
    return description -> {
      Set<Class<?>> records = new LinkedHashSet<>();
      for (Object controller : context.getBeansWithAnnotation(RestController.class).values()) {
        for (var method : controller.getClass().getDeclaredMethods()) {
          if (!Modifier.isPrivate(method.getModifiers())) {
            collect(method.getGenericReturnType(), records);
          }
        }
      }
      @SuppressWarnings("rawtypes") // as the library declares it
      Map<String, Schema> schemas = description.getComponents().getSchemas();
      for (Class<?> type : records) {
        Schema<?> schema = schemas.get(type.getSimpleName());
        if (schema != null) {
          schema.setRequired(required(type));
        }
      }
    };
  }

  private static ArrayList<String> required(Class<?> type) {
    var names = new ArrayList<String>();
    for (RecordComponent component : type.getRecordComponents()) {
      if (!component.getAnnotatedType().isAnnotationPresent(Nullable.class)) {
        names.add(component.getName());
      }
    }
    return names;
  }

  private static void collect(Type type, Set<Class<?>> records) {
    if (type instanceof ParameterizedType generic) {
      for (Type argument : generic.getActualTypeArguments()) {
        collect(argument, records);
      }
    } else if (type instanceof Class<?> plain && plain.isRecord() && records.add(plain)) {
      for (RecordComponent component : plain.getRecordComponents()) {
        collect(component.getGenericType(), records);
      }
    }
  }
}
