package longthread.service.web;

import java.io.IOException;
import java.util.concurrent.TimeUnit;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.io.ClassPathResource;
import org.springframework.core.io.Resource;
import org.springframework.http.CacheControl;
import org.springframework.web.servlet.config.annotation.ResourceHandlerRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;
import org.springframework.web.servlet.resource.PathResourceResolver;

/** Serves the console: hashed files for a year, the page itself for every other path. */
@Configuration
class ConsoleFiles implements WebMvcConfigurer {
  private static final String PLACE = "classpath:/META-INF/resources/";

  @Override
  public void addResourceHandlers(ResourceHandlerRegistry registry) {
    registry
        .addResourceHandler("/assets/**")
        .addResourceLocations(PLACE + "assets/")
        .setCacheControl(CacheControl.maxAge(365, TimeUnit.DAYS).immutable());
    registry
        .addResourceHandler("/**")
        .addResourceLocations(PLACE)
        .setCacheControl(CacheControl.noCache())
        .resourceChain(true)
        .addResolver(new PageForUnknownPaths());
  }

  /** Paths of the console's own pages have no dot and are no API calls. */
  private static final class PageForUnknownPaths extends PathResourceResolver {
    @Override
    protected @org.jspecify.annotations.Nullable Resource getResource(
        String path, Resource location) throws IOException {
      Resource file = super.getResource(path.isEmpty() ? "index.html" : path, location);
      if (file != null || path.contains(".") || path.startsWith("api/")) {
        return file;
      }
      return new ClassPathResource("META-INF/resources/index.html");
    }
  }
}
