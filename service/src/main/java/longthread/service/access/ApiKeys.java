package longthread.service.access;

import java.util.List;
import java.util.Optional;
import org.springframework.data.jpa.repository.JpaRepository;

interface ApiKeys extends JpaRepository<ApiKey, Long> {
  Optional<ApiKey> findByHashAndRevokedAtIsNull(byte[] hash);

  Optional<ApiKey> findByName(String name);

  List<ApiKey> findAllByOrderByName();
}
