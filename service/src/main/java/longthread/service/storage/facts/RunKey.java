package longthread.service.storage.facts;

import java.util.UUID;

/** A run of a job: engines let several jobs report under one run's id. */
public record RunKey(UUID run, long job) {}
