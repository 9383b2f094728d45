package longthread.client.answers;

import java.util.List;

/** A group of people: those put into it here, and those that the provider says. */
public record Group(String name, String title, List<String> members, List<String> fromProvider) {}
