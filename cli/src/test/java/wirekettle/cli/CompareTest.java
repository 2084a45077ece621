package wirekettle.cli;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import org.testng.annotations.Test;
import wirekettle.demo.DemoBundle;

/** What differs between two bundles, from a shell. */
@Test(singleThreaded = true)
public class CompareTest {
    private static String told(int code, String... args) {
        PrintStream before = System.out;
        ByteArrayOutputStream text = new ByteArrayOutputStream();
        System.setOut(new PrintStream(text, true, StandardCharsets.UTF_8));
        try {
            assertEquals(Kettle.run(args), code);
        } finally {
            System.setOut(before);
        }
        return text.toString(StandardCharsets.UTF_8);
    }

    @Test
    public void bundlesThatAreTheSameAndBundlesThatDiffer() throws Exception {
        Path one = Files.createTempDirectory("bundle-");
        Path two = Files.createTempDirectory("bundle-");
        DemoBundle.write(one);
        DemoBundle.write(two);
        assertEquals(told(0, "compare", one.toString(), two.toString()), "");
        Path flow = two.resolve("flow.json");
        Files.writeString(flow, Files.readString(flow).replace("\"HALEWICK\"", "\"NIGHT\""));
        Path endpoints = two.resolve("endpoints.json");
        Files.writeString(endpoints, Files.readString(endpoints).replace("8790", "9999"));
        String text = told(1, "compare", one.toString(), two.toString());
        assertEquals(
                text.replace("\r", ""),
                "changed  Call LookUpInstitution  fill /LookUpInstitution/requestedBy\n"
                        + "    - constant HALEWICK\n    + constant NIGHT\n"
                        + "changed  endpoint Institution Register\n");
        assertTrue(told(1, "compare", "--json", one.toString(), two.toString()).contains("\"kind\" : \"changed\""));
        told(2, "compare", one.toString(), one.resolve("nothing").toString());
    }
}
