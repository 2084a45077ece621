package wirekettle.demo;

import java.io.IOException;

/** What {@code ./start --demo} brings up beside the server: {@code Demo PRODUCT PORT NAME PASSWORD}. */
public final class Demo {
    private Demo() {}

    /** Starts the simulated services, fills the product, and waits until the process is ended. */
    public static void main(String[] args) throws IOException, InterruptedException {
        try (DemoWorld world = new DemoWorld(Integer.parseInt(args[1]))) {
            if (!args[0].equals("-")) {
                ProductClient product = new ProductClient(args[0]);
                product.signIn(args[2], args[3]);
                new DemoSeed(product, world).sow();
            }
            System.out.println("ready on " + world.port());
            Thread.currentThread().join();
        }
    }
}
