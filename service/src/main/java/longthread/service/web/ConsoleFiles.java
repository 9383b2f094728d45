package longthread.service.web;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.io.ClassPathResource;
import org.springframework.core.io.Resource;
import org.springframework.http.CacheControl;
import org.springframework.web.servlet.config.annotation.ResourceHandlerRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;
import org.springframework.web.servlet.resource.PathResourceResolver;
import org.springframework.web.servlet.resource.TransformedResource;

/** Serves the console: hashed files for a year, the page itself for every other path. */
@Configuration
class ConsoleFiles implements WebMvcConfigurer {
  private static final String PLACE = "classpath:/META-INF/resources/";

  private final PublicAddress address;

  ConsoleFiles(PublicAddress address) {
    this.address = address;
  }

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
        .addResolver(new PageForUnknownPaths())
        .addTransformer(
            (request, resource, chain) -> {
              Resource next = chain.transform(request, resource);
              return "index.html".equals(resource.getFilename()) ? underItsPath(next) : next;
            });
  }

  /** The page, with the path that all its addresses are below. */
  private Resource underItsPath(Resource page) throws IOException {
    String text = page.getContentAsString(StandardCharsets.UTF_8);
    String based = text.replace("<base href=\"/\"", "<base href=\"" + address.path() + "/\"");
    return new TransformedResource(page, based.getBytes(StandardCharsets.UTF_8));
  }

  /** Paths of the console's own pages have no dot, and are no calls to the service. */
  private static final class PageForUnknownPaths extends PathResourceResolver {
    private static final Set<String> NO_PAGES =
        Set.of("api", "health", "metrics", "actuator", "shared");

    @Override
    protected @org.jspecify.annotations.Nullable Resource getResource(
        String path, Resource location) throws IOException {
      Resource file = super.getResource(path.isEmpty() ? "index.html" : path, location);
      if (file != null || path.contains(".") || isCall(path)) {
        return file;
      }
      return new ClassPathResource("META-INF/resources/index.html");
    }

    private static boolean isCall(String path) {
      int end = path.indexOf('/');
      return NO_PAGES.contains((end < 0 ? path : path.substring(0, end)).toLowerCase(Locale.ROOT));
    }
  }
}
