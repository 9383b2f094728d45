package longthread.service.apply;

import longthread.core.event.EventFacts;

/** What an event says, together with the block of the log that it lies in. */
public record EventAtBlock(EventFacts event, long block) {}
