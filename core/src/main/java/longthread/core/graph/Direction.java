package longthread.core.graph;

/** Which way to walk: toward what is fed, or toward what feeds. */
public enum Direction {
  DOWNSTREAM,
  UPSTREAM
}
