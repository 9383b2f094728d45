package longthread.service.access;

import org.springframework.data.jpa.repository.JpaRepository;

interface Accounts extends JpaRepository<Account, String> {}
