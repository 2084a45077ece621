package wirekettle.core.record;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.value.Column;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.value.ScalarType;

/** What callers send, held against what is expected. */
public class InputReaderTest {
    private static final InputReader LOANS = new InputReader(
            new InputShape(
                    List.of(
                            column("loan", ScalarType.STRING, true),
                            column("borrower/name", ScalarType.STRING, true),
                            column("borrower/insured", ScalarType.BOOLEAN, false),
                            column("crates/no", ScalarType.STRING, true),
                            column("crates/kilograms", ScalarType.DECIMAL, false),
                            column("tags", ScalarType.STRING, false),
                            column("collect", ScalarType.DATE, false)),
                    List.of("crates", "tags"),
                    null),
            "input");

    private static Column column(String name, ScalarType type, boolean required) {
        return new Column(name, name, type, null, required);
    }

    private static Node read(String json, List<InputReader.Problem> problems) throws InputReader.Unreadable {
        return LOANS.json(json.getBytes(StandardCharsets.UTF_8), problems);
    }

    private static String wrong(String json) throws InputReader.Unreadable {
        List<InputReader.Problem> problems = new ArrayList<>();
        read(json, problems);
        return problems.stream().map(p -> p.pointer() + " " + p.message()).collect(Collectors.joining("; "));
    }

    @Test
    public void aDocumentBecomesARecord() throws Exception {
        List<InputReader.Problem> problems = new ArrayList<>();
        Node record = read(
                """
                {"loan": "HC-1", "borrower": {"name": "Lace & Co", "insured": true},
                 "crates": [{"no": "1", "kilograms": 1.5e1}, {"no": "2", "kilograms": null}],
                 "tags": ["a", "b"], "collect": "2026-12-04"}
                """,
                problems);
        assertEquals(problems, List.of());
        assertEquals(
                NodeWriter.write(record, false).replaceAll(" xmlns:\\w+=\"[^\"]*\"| \\w+:nil=\"true\"", ""),
                "<input><loan>HC-1</loan><borrower><name>Lace &amp; Co</name><insured>true</insured></borrower>"
                        + "<crates><no>1</no><kilograms>15</kilograms></crates><crates><no>2</no><kilograms/></crates>"
                        + "<tags>a</tags><tags>b</tags><collect>2026-12-04</collect></input>");
    }

    @DataProvider
    public Object[][] wrongs() {
        String fine = "\"loan\": \"x\", \"borrower\": {\"name\": \"n\"}";
        return new Object[][] {
            {"{}", "/loan is missing; /borrower/name is missing"},
            {"[]", " is an array where an object is expected"},
            {"{" + fine + ", \"crates\": {}}", "/crates is an object where an array is expected"},
            {
                "{" + fine + ", \"crates\": [{\"kilograms\": \"heavy\"}]}",
                "/crates/0/no is missing; /crates/0/kilograms is a text where a number is expected"
            },
            {"{" + fine + ", \"crates\": [7]}", "/crates/0 is a number where an object is expected"},
            {"{" + fine + ", \"tags\": [1]}", "/tags/0 is a number where a text is expected"},
            {"{\"loan\": \"\", \"borrower\": {\"name\": null}}", "/loan is empty; /borrower/name is missing"},
            {
                "{" + fine + ", \"lo/an\": 1}",
                "/lo~1an is not known here; there are borrower, collect, crates, loan, tags"
            },
            {
                "{" + fine + ", \"crates\": [{\"no\": \"1\", \"kilograms\": 1e999999}]}",
                "/crates/0/kilograms is a number out of reach"
            },
            {
                "{\"loan\": \"a\\u0001\", \"borrower\": {\"name\": \"n\", \"insured\": \"true\"}}",
                "/loan holds a character XML cannot carry;"
                        + " /borrower/insured is a text where true or false is expected"
            },
        };
    }

    @Test(dataProvider = "wrongs")
    public void everyWrongValueIsNamedByItsPlace(String json, String expected) throws Exception {
        assertEquals(wrong(json), expected);
    }

    @Test
    public void aDateIsADate() throws Exception {
        String said = wrong("{\"loan\": \"x\", \"borrower\": {\"name\": \"n\"}, \"collect\": \"4.12.2026\"}");
        assertTrue(said.startsWith("/collect "), said);
    }

    @DataProvider
    public Object[][] noDocuments() {
        return new Object[][] {
            {""},
            {"{\"loan\": "},
            {"{} {}"},
            {"{\"loan\": \"a\", \"loan\": \"b\"}"},
            {"[".repeat(100_000)},
            {"<loan/>"},
            {"{\"loan\": 'a'}"}
        };
    }

    @Test(dataProvider = "noDocuments")
    public void whatIsNoDocumentIsSaid(String body) {
        expectThrows(InputReader.Unreadable.class, () -> read(body, new ArrayList<>()));
    }

    @Test
    public void namedTextsAreTheFieldsOfTheFirstLevel() {
        InputReader flat = new InputReader(
                new InputShape(
                        List.of(
                                column("loan", ScalarType.STRING, true),
                                column("kilograms", ScalarType.DECIMAL, false)),
                        null,
                        null),
                "input");
        List<InputReader.Problem> problems = new ArrayList<>();
        Node record = flat.texts(Map.of("loan", List.of("HC-1"), "kilograms", List.of("2.5")), problems);
        assertEquals(problems, List.of());
        assertEquals(NodeWriter.write(record, false), "<input><loan>HC-1</loan><kilograms>2.5</kilograms></input>");
        flat.texts(Map.of("kilograms", List.of("1", "two"), "crate", List.of("x")), problems);
        assertEquals(
                problems.stream().map(InputReader.Problem::pointer).sorted().toList(),
                List.of("/crate", "/kilograms", "/kilograms", "/loan"));
    }
}
