package wirekettle.benchmarks;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.openqa.selenium.Keys;
import wirekettle.demo.DemoSeed;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;
import wirekettle.e2e.Browser;

/**
 * A key press in a condition until it is painted, in a flow of 190 stages, against the same in one of six. Measured in the
 * page, from the key event to the frame behind it.
 */
public final class TypingBenchmark {
    private static final int MANY = 190;
    private static final int ROUNDS = 5;
    private static final String TEXT = "normalize-space($loan/institution_no) != ";
    private static final String MEASURE = "window.presses = []; window.addEventListener('keydown', () => {"
            + " const from = performance.now(); requestAnimationFrame(() => { const channel = new MessageChannel();"
            + " channel.port1.onmessage = () => window.presses.push(performance.now() - from);"
            + " channel.port2.postMessage(null); }); }, true);";

    private TypingBenchmark() {}

    /** Runs it; the exit code says whether the ratio holds. */
    public static void main(String[] args) throws Exception {
        System.exit(measured());
    }

    private static int measured() throws Exception {
        Path downloads = Files.createTempDirectory("typing-");
        try (DemoWorld world = new DemoWorld(0);
                StartedProduct product = new StartedProduct(Path.of("."), List.of("-Xmx512m"), Map.of())) {
            ProductClient client = product.client();
            new DemoSeed(client, world).sow();
            long few = flow(client, 0);
            long many = flow(client, MANY);
            try (Browser browser = new Browser(product.address(), downloads)) {
                browser.signIn("ada", product.password());
                double[][] all = new double[2][ROUNDS];
                double[][] late = new double[2][ROUNDS];
                for (int round = -1; round < ROUNDS; round++) {
                    for (int side = 0; side < 2; side++) {
                        double[] presses = typed(browser, side == 0 ? few : many);
                        if (round >= 0) {
                            all[side][round] = presses[presses.length / 2];
                            late[side][round] = presses[presses.length * 95 / 100];
                        }
                    }
                }
                double small = Ratio.median(all[0]);
                double large = Ratio.median(all[1]);
                System.out.printf(
                        Locale.ROOT,
                        "six stages: %.1f ms a key (95 of 100 within %.1f); %d stages: %.1f ms (%.1f)%n",
                        small,
                        Ratio.median(late[0]),
                        MANY,
                        large,
                        Ratio.median(late[1]));
                return Ratio.atMost(large / small, 3);
            }
        }
    }

    /** Returns how long each key press took to be painted, in milliseconds, the shortest first. */
    private static double[] typed(Browser browser, long flow) {
        browser.open("/flows/" + flow + "?stage=known");
        browser.see("[aria-label='Goes on when']");
        browser.seeText("Saved");
        browser.settle();
        browser.script(MEASURE);
        browser.see("[aria-label='Goes on when']").click();
        browser.keys(Keys.chord(Keys.CONTROL, "a"));
        for (char each : TEXT.toCharArray()) {
            browser.keys(String.valueOf(each));
        }
        browser.keys(Keys.ESCAPE);
        List<?> presses = (List<?>) browser.script("return window.presses");
        return presses.stream()
                .mapToDouble(each -> ((Number) each).doubleValue())
                .sorted()
                .toArray();
    }

    /** Adds a flow of the demo with so many stages more. */
    private static long flow(ProductClient client, int more) throws Exception {
        ObjectMapper json = new ObjectMapper();
        ObjectNode file = (ObjectNode) json.readTree(DemoWorld.resource("flows/book-whole-way.json"));
        file.put("name", "Typing among " + more);
        ArrayNode stages = (ArrayNode) file.get("stages");
        int place = 3;
        for (int i = 0; i < more - stages.size(); i++) {
            ObjectNode map = json.createObjectNode()
                    .put("verb", "Map")
                    .put("id", "more" + i)
                    .put("as", "more" + i);
            map.putArray("columns").addObject().put("name", "loan").put("type", "string");
            map.putArray("fills")
                    .addObject()
                    .put("id", "f" + i)
                    .put("target", "loan")
                    .put("wire", i == 0 ? "$loan/loan_no" : "$more" + (i - 1) + "/loan");
            stages.insert(place + i, map);
        }
        JsonNode made =
                client.post("/api/flows", Map.of("name", file.get("name").asText(), "file", file));
        return made.get("id").asLong();
    }
}
