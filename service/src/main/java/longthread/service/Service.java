package longthread.service;

import java.time.Clock;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;
import org.springframework.context.annotation.Bean;
import org.springframework.scheduling.annotation.EnableScheduling;

/** The whole service. */
@SpringBootApplication
@EnableScheduling
@ConfigurationPropertiesScan
public class Service {
  public static void main(String[] args) {
    SpringApplication.run(Service.class, args);
  }

  @Bean
  Clock clock() {
    return Clock.systemUTC();
  }
}
