package wirekettle.demo;

import java.io.IOException;
import java.net.BindException;
import java.nio.file.Path;

/**
 * What {@code ./start --demo} brings up beside the server: {@code Demo PRODUCT PORT NAME PASSWORD MAIL}; mails are taken
 * at the port MAIL and shown at the one behind it.
 */
public final class Demo {
    private static final int BROKER_PORT = 8_830;

    private Demo() {}

    /** Starts the simulated services, fills the product, and waits until the process is ended. */
    public static void main(String[] args) throws IOException, InterruptedException {
        try (DemoWorld world = world(Integer.parseInt(args[1]));
                MailSink mails = args.length > 4 ? new MailSink(Integer.parseInt(args[4])) : null;
                // last: it takes another port where somebody has its own
                DemoBroker broker = new DemoBroker(Path.of("var", "broker-demo"), BROKER_PORT)) {
            if (mails != null) {
                mails.show(mails.port() + 1);
            }
            if (!args[0].equals("-")) {
                ProductClient product = new ProductClient(args[0]);
                product.signIn(args[2], args[3]);
                new DemoSeed(product, world).sow();
                new DemoDuty(product).begin();
                new DemoQueues(product, broker).begin();
            }
            System.out.println("broker at " + broker.address());
            System.out.println("ready on " + world.port());
            Thread.currentThread().join();
        }
    }

    /** Takes the first port that is free when it is taken: one that looked free may be gone a moment later. */
    static DemoWorld world(int wanted) throws IOException {
        for (int port = wanted; port < wanted + 200; port++) {
            try {
                return new DemoWorld(port);
            } catch (BindException e) {
                // somebody has it: the next one
            }
        }
        throw new IOException(
                "no port from " + wanted + " to " + (wanted + 199) + " is free for the simulated services");
    }
}
