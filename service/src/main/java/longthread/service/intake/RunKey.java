package longthread.service.intake;

import java.util.UUID;

/** A run of a job: engines let several jobs report under one run's id. */
record RunKey(UUID run, long job) {}
