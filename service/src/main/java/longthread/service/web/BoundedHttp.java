package longthread.service.web;

import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.channels.SocketChannel;
import java.time.Duration;
import java.util.HashSet;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.apache.coyote.AbstractProcessor;
import org.apache.coyote.Constants;
import org.apache.coyote.http11.Http11NioProtocol;
import org.apache.tomcat.util.net.NioChannel;
import org.apache.tomcat.util.net.NioEndpoint;
import org.apache.tomcat.util.net.SocketWrapperBase;
import org.jspecify.annotations.Nullable;

/**
 * HTTP over connections that are bounded for each address, and whose requests must show all their
 * headers in time. The web server itself bounds only the pause between two bytes of them.
 */
public final class BoundedHttp extends Http11NioProtocol {
  private final BoundedEndpoint endpoint;

  /** Called by the web server, by name. */
  public BoundedHttp() {
    this(new BoundedEndpoint());
  }

  private BoundedHttp(BoundedEndpoint endpoint) {
    super(endpoint);
    this.endpoint = endpoint;
  }

  /**
   * Sets how many connections one address may have open, and the time for headers.
   *
   * @param unbounded addresses that may have any number, such as those of proxies
   * @param headerTime how long the headers of a request may take from its first byte
   */
  void bound(int perAddress, Set<String> unbounded, Duration headerTime) {
    endpoint.headerNanos = headerTime.toNanos();
    endpoint.perAddress = perAddress;
    endpoint.unbounded = unbounded;
  }

  private static final class BoundedEndpoint extends NioEndpoint {
    private volatile int perAddress = Integer.MAX_VALUE;
    private volatile Set<String> unbounded = Set.of();
    private volatile long headerNanos = Long.MAX_VALUE;
    private Set<SocketWrapperBase<NioChannel>> overdue = new HashSet<>();
    private @Nullable ScheduledExecutorService sweeper;

    @Override
    public void startInternal() throws Exception {
      super.startInternal();
      sweeper =
          Executors.newSingleThreadScheduledExecutor(
              work -> {
                var thread = new Thread(work, getName() + "-headers");
                thread.setDaemon(true);
                return thread;
              });
      sweeper.scheduleWithFixedDelay(this::closeUnfinishedHeaders, 1, 1, TimeUnit.SECONDS);
    }

    @Override
    public void stopInternal() {
      if (sweeper != null) {
        sweeper.shutdownNow();
      }
      super.stopInternal();
    }

    /** Called for each new connection; the caller closes it if this is false. */
    @Override
    protected boolean setSocketOptions(SocketChannel socket) {
      return hasRoom(socket) && super.setSocketOptions(socket);
    }

    private boolean hasRoom(SocketChannel socket) {
      String address;
      try {
        if (!(socket.getRemoteAddress() instanceof InetSocketAddress remote)) {
          return true;
        }
        address = remote.getAddress().getHostAddress();
      } catch (IOException e) {
        return false; // it has gone already
      }
      if (connections.size() < perAddress || unbounded.contains(address)) {
        return true;
      }
      int open = 0;
      for (SocketWrapperBase<NioChannel> other : connections.values()) {
        if (address.equals(other.getRemoteAddr())) {
          open++;
        }
      }
      return open < perAddress;
    }

    /** Called every second by one thread; closes what was overdue at the last call, too. */
    private void closeUnfinishedHeaders() {
      var late = new HashSet<SocketWrapperBase<NioChannel>>();
      for (SocketWrapperBase<NioChannel> connection : connections.values()) {
        if (connection.getCurrentProcessor() instanceof AbstractProcessor processor
            && isUnfinished(processor)
            && System.nanoTime() - processor.getRequest().getStartTimeNanos() > headerNanos) {
          late.add(connection);
        }
      }
      // A request that ends at this very moment looks the same for an instant.
      overdue.retainAll(late);
      overdue.forEach(SocketWrapperBase::close);
      overdue = late;
    }

    /** A connection keeps its processor, outside any thread, while headers are incomplete. */
    private static boolean isUnfinished(AbstractProcessor processor) {
      int stage = processor.getRequest().getRequestProcessor().getStage();
      boolean isAtWork = stage != Constants.STAGE_PARSE && stage != Constants.STAGE_ENDED;
      return !isAtWork && !processor.isAsync() && !processor.isUpgrade();
    }
  }
}
