package wirekettle.core.contract;

import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.ExampleMessage;
import wirekettle.core.schema.SheetField;

/**
 * Contracts damaged at random, always the same way: whatever is wrong is a finding or a refusal, never an exception.
 */
public class MutatedContractsTest {
    private static final Pattern ATTRIBUTE = Pattern.compile("\\s[\\w:]+=(\"[^\"]*\"|'[^']*')");
    private static final Pattern TAG = Pattern.compile("<[A-Za-z][^<>]*/>");
    private static final Pattern NAME = Pattern.compile("(?<=[\"':/<])[A-Za-z]\\w{2,}(?=[\"' />])");
    private static final int DAMAGED = 12;

    @DataProvider
    public static Object[][] folders() throws IOException {
        List<Object[]> all = new ArrayList<>();
        for (String root : List.of("awkward", "world")) {
            try (Stream<Path> files = Files.walk(Path.of("../demo/src/main/resources", root))) {
                files.filter(p -> p.toString().endsWith(".wsdl")).sorted().forEach(p -> all.add(new Object[] {p}));
            }
        }
        return all.toArray(Object[][]::new);
    }

    private static String damaged(String text, Random random) {
        Pattern where = List.of(ATTRIBUTE, TAG, NAME).get(random.nextInt(3));
        List<int[]> places = new ArrayList<>();
        Matcher found = where.matcher(text);
        while (found.find()) {
            places.add(new int[] {found.start(), found.end()});
        }
        if (places.isEmpty()) {
            return text;
        }
        int[] at = places.get(random.nextInt(places.size()));
        String instead = where == NAME ? "Lost" + random.nextInt(9) : "";
        String changed = text.substring(0, at[0]) + instead + text.substring(at[1]);
        return random.nextInt(4) == 0 ? damaged(changed, random) : changed;
    }

    @Test(dataProvider = "folders")
    public void aDamagedContractNeverThrows(Path wsdl) throws Exception {
        Contract sound = read(wsdl, null);
        for (int seed = 0; seed < DAMAGED; seed++) {
            Random random = new Random(seed);
            Contract damaged;
            try {
                damaged = read(wsdl, random);
            } catch (ContractRefused e) {
                assertTrue(e.getMessage().length() > 10, e.getMessage());
                continue;
            }
            for (Contract.Offered offered : damaged.operations()) {
                for (ElementDecl element : offered.operation().elements()) {
                    walk(damaged.sheet(element), 0);
                    damaged.example(element, ExampleMessage.Wish.MINIMAL);
                    damaged.example(element, ExampleMessage.Wish.COMPLETE);
                }
            }
            if (sound != null) {
                ContractComparison.of(sound, damaged);
                ContractComparison.of(damaged, sound);
            }
            damaged.check().problems("<a/>".getBytes(StandardCharsets.UTF_8));
        }
    }

    private static void walk(SheetField field, int depth) {
        assertTrue(field.path().startsWith("/"), field.path());
        field.typeLabel();
        if (depth < 6 && !field.recursive()) {
            field.children().forEach(child -> walk(child, depth + 1));
        }
    }

    /** Reads a contract, each of its documents damaged when there is a random to do it with. */
    private static Contract read(Path wsdl, Random random) throws ContractRefused {
        Path folder = wsdl.getParent();
        DocumentSource files = name -> {
            Path path = folder.resolve(name);
            if (!Files.exists(path)) {
                throw new IOException("there is no such document");
            }
            byte[] bytes = Files.readAllBytes(path);
            return random == null
                    ? bytes
                    : damaged(new String(bytes, StandardCharsets.ISO_8859_1), random)
                            .getBytes(StandardCharsets.ISO_8859_1);
        };
        return ContractReader.read(List.of(wsdl.getFileName().toString()), files, false, ImportProgress.NONE);
    }
}
