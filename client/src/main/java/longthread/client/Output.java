package longthread.client;

import picocli.CommandLine.Mixin;

/** What nearly every command shares: the service it calls, and how it prints. */
abstract class Output extends Printer {
  @Mixin Connection connection = new Connection();

  ServiceClient service() {
    return connection.service();
  }
}
