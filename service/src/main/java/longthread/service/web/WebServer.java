package longthread.service.web;

import org.apache.catalina.core.StandardHost;
import org.springframework.boot.tomcat.servlet.TomcatServletWebServerFactory;
import org.springframework.boot.web.server.WebServerFactoryCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** How the web server behaves before a request reaches the service's own code. */
@Configuration
class WebServer {
  @Bean
  static WebServerFactoryCustomizer<TomcatServletWebServerFactory> problemDocuments() {
    return factory ->
        factory.addContextCustomizers(
            context -> {
              if (context.getParent() instanceof StandardHost host) {
                host.setErrorReportValveClass(ProblemValve.class.getName());
              }
            });
  }
}
