package wirekettle.demo;

import java.io.IOException;

/** Runs the simulated services until the process is ended: {@code DemoServices PORT}. */
public final class DemoServices {
    private DemoServices() {}

    /** Starts the services and waits. */
    public static void main(String[] args) throws IOException, InterruptedException {
        System.setProperty("sun.net.httpserver.nodelay", "true");
        try (DemoWorld world = new DemoWorld(args.length > 0 ? Integer.parseInt(args[0]) : 8790)) {
            System.out.println("simulated services on " + world.address(""));
            Thread.currentThread().join();
        }
    }
}
