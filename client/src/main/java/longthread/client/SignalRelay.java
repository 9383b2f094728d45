package longthread.client;

import java.io.IOException;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.util.List;

/** Hands the signals that this program gets to a child, which decides what becomes of them. */
final class SignalRelay {
  private static final List<String> SIGNALS = List.of("TERM", "INT", "HUP", "USR2");

  private SignalRelay() {}

  /**
   * From now on the child gets the signals, and this program goes on until the child ends.
   *
   * <p>The JDK has no public interface for signals; where its inner one is not there, a signal ends
   * this program and the child is asked to end with it.
   */
  static void to(Process child) {
    for (String name : SIGNALS) {
      try {
        Class<?> signal = Class.forName("sun.misc.Signal");
        Class<?> handler = Class.forName("sun.misc.SignalHandler");
        Object relay =
            Proxy.newProxyInstance(
                SignalRelay.class.getClassLoader(),
                new Class<?>[] {handler},
                (proxy, method, arguments) -> {
                  if (method.getName().equals("handle")) {
                    send(child, name);
                  }
                  return null;
                });
        signal
            .getMethod("handle", signal, handler)
            .invoke(null, signal.getConstructor(String.class).newInstance(name), relay);
      } catch (ClassNotFoundException
          | NoSuchMethodException
          | InstantiationException
          | IllegalAccessException
          | InvocationTargetException e) {
        Runtime.getRuntime().addShutdownHook(new Thread(child::destroy));
      }
    }
  }

  private static void send(Process child, String name) {
    try {
      new ProcessBuilder("kill", "-" + name, "" + child.pid()).start();
    } catch (IOException e) {
      child.destroy();
    }
  }
}
