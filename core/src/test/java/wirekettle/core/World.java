package wirekettle.core;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.DocumentSource;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.ImportProgress;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** The contracts and trees tests work on. */
public final class World {
    private static final Path DEMO = Path.of("../demo/src/main/resources/world");
    private static final Path AWKWARD = Path.of("../demo/src/main/resources/awkward");

    private World() {}

    /** Reads every document of a folder of the demo world. */
    public static GivenDocuments documents(String folder) {
        GivenDocuments given = new GivenDocuments();
        Path root = DEMO.resolve(folder);
        try (Stream<Path> files = Files.walk(root).sorted()) {
            for (Path file :
                    files.filter(f -> f.toString().matches(".*\\.(wsdl|xsd)")).toList()) {
                given.add(root.relativize(file).toString(), Files.readAllBytes(file));
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return given;
    }

    /** Reads a test contract of this module. */
    public static GivenDocuments resource(String name) {
        try {
            return new GivenDocuments().add(name, Files.readAllBytes(Path.of("src/test/resources/contracts", name)));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Reads a contract that must not be refused. */
    public static Contract contract(GivenDocuments documents) {
        try {
            return ContractReader.read(documents, false);
        } catch (ContractRefused e) {
            throw new AssertionError(e);
        }
    }

    /** Returns the names of the awkward contracts: one for each construct met in the wild. */
    public static List<String> awkward() {
        try (Stream<Path> all = Files.walk(AWKWARD)) {
            return all.map(p -> AWKWARD.relativize(p).toString())
                    .filter(p -> p.endsWith(".wsdl"))
                    .sorted()
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Returns an awkward contract, read leniently. */
    public static Contract awkward(String name) {
        try {
            return awkward(name, false);
        } catch (ContractRefused e) {
            throw new AssertionError(e);
        }
    }

    /** Returns an awkward contract, or why it is refused. */
    public static Contract awkward(String name, boolean strict) throws ContractRefused {
        DocumentSource files = each -> {
            Path path = AWKWARD.resolve(each);
            if (!Files.exists(path)) {
                throw new IOException("the server answered HTTP 404: there is no document at this address");
            }
            return Files.readAllBytes(path);
        };
        return ContractReader.read(List.of(name), files, strict, ImportProgress.NONE);
    }

    /** Returns the Institution Register. */
    public static Contract register() {
        return contract(documents("register"));
    }

    /** Returns Vanline Desk. */
    public static Contract vanline() {
        return contract(documents("vanline"));
    }

    /** Returns one text document. */
    public static GivenDocuments text(String name, String text) {
        return new GivenDocuments().add(name, text.getBytes(StandardCharsets.UTF_8));
    }

    /** Returns a record of leaves from name and value pairs. */
    public static Node record(String name, String... pairs) {
        Node.Builder node = Node.build(Name.of(name));
        for (int i = 0; i < pairs.length; i += 2) {
            node.add(pairs[i], pairs[i + 1]);
        }
        return node.done();
    }

    /** Reads XML written for a test. */
    public static Node tree(String xml) {
        try {
            return NodeReader.read(
                    new ByteArrayInputStream(xml.getBytes(StandardCharsets.UTF_8)), "test", XmlLimits.MESSAGES);
        } catch (XmlProblem e) {
            throw new AssertionError(e);
        }
    }
}
