package wirekettle.e2e;

import java.io.IOException;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import wirekettle.demo.DemoSeed;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.StartedProduct;

/** Products with the demo's data: it is sown once, and each begins with a copy of its own. */
final class Seeded {
    private static final Path ROOT = Path.of("..");
    private static StartedProduct.Left sown;

    private Seeded() {}

    /** Starts a product whose endpoints are the services of a world. */
    static StartedProduct product(DemoWorld world, String heap, Map<String, String> settings) throws Exception {
        StartedProduct product = new StartedProduct(ROOT, List.of(heap), settings, sown());
        new DemoSeed(product.client(), world).sow();
        return product;
    }

    private static synchronized StartedProduct.Left sown() throws IOException, SQLException {
        if (sown == null) {
            try (DemoWorld world = new DemoWorld(0)) {
                StartedProduct product = new StartedProduct(ROOT, List.of("-Xmx512m"), Map.of());
                new DemoSeed(product.client(), world).sow();
                sown = product.leave();
                Runtime.getRuntime().addShutdownHook(new Thread(() -> remove(product)));
            }
        }
        return sown;
    }

    private static void remove(StartedProduct product) {
        try {
            product.close();
        } catch (IOException | SQLException e) {
            System.err.println("the sown product was not removed: " + e);
        }
    }
}
