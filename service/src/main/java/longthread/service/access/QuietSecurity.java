package longthread.service.access;

import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.security.config.observation.SecurityObservationSettings;

/** Timing each security filter of each post costs more than the check of the key. */
@Configuration
class QuietSecurity {
  @Bean
  static SecurityObservationSettings noObservations() {
    return SecurityObservationSettings.noObservations();
  }
}
