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
        return LOANS.json(json.getBytes(StandardCharsets.UTF_8), Map.of(), problems);
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

    private static String wrongXml(String xml) throws InputReader.Unreadable {
        List<InputReader.Problem> problems = new ArrayList<>();
        LOANS.xml(xml.getBytes(StandardCharsets.UTF_8), Map.of(), problems);
        return problems.stream().map(p -> p.pointer() + " " + p.message()).collect(Collectors.joining("; "));
    }

    @Test
    public void anXmlDocumentOfAnyNamespaceBecomesTheSameRecord() throws Exception {
        List<InputReader.Problem> problems = new ArrayList<>();
        Node xml = LOANS.xml(
                """
                <l:Loan xmlns:l="urn:halewick:loans" loan="HC-1"><tags>a</tags>
                  <l:borrower><l:name>Lace &amp; Co</l:name></l:borrower><l:crates no="1"/><tags>b</tags></l:Loan>
                """
                        .getBytes(StandardCharsets.UTF_8),
                Map.of(),
                problems);
        Node json = read(
                "{\"loan\":\"HC-1\",\"borrower\":{\"name\":\"Lace & Co\"},\"crates\":[{\"no\":\"1\"}],"
                        + "\"tags\":[\"a\",\"b\"]}",
                problems);
        assertEquals(problems, List.of());
        assertEquals(NodeWriter.write(xml, false), NodeWriter.write(json, false));
    }

    @DataProvider
    public Object[][] wrongXmls() {
        String fine = "<loan>x</loan><borrower><name>n</name></borrower>";
        return new Object[][] {
            {"<r/>", "/loan is missing; /borrower/name is missing"},
            {"<r>text</r>", " is a text where fields are expected; /loan is missing; /borrower/name is missing"},
            {"<r>" + fine + "<loan>y</loan></r>", "/loan is there 2 times"},
            {"<r>" + fine + "<crates><no>1</no><kilograms>heavy</kilograms></crates></r>", "/crates/0/kilograms "},
            {"<r>" + fine + "<tags><a/></tags></r>", "/tags/0 has elements where a text is expected"},
            {"<r>" + fine + "<crate/></r>", "/crate is not known here"},
        };
    }

    @Test(dataProvider = "wrongXmls")
    public void everyWrongElementIsNamedByItsPlace(String xml, String expected) throws Exception {
        String said = wrongXml(xml);
        assertTrue(said.startsWith(expected), said);
    }

    @DataProvider
    public Object[][] noXml() {
        return new Object[][] {
            {""},
            {"<r>"},
            {"{}"},
            {"<!DOCTYPE r [<!ENTITY e SYSTEM 'file:///etc/hosts'>]><r>&e;</r>"},
            {"<r>".repeat(100_000)},
        };
    }

    @Test(dataProvider = "noXml")
    public void whatIsNoXmlIsSaid(String body) {
        expectThrows(InputReader.Unreadable.class, () -> wrongXml(body));
    }

    @Test
    public void whatTheAddressSaysNeedNotBeInTheDocument() throws Exception {
        List<InputReader.Problem> problems = new ArrayList<>();
        Map<String, List<String>> beside = Map.of("loan", List.of("HC-7"));
        String body = "{\"borrower\":{\"name\":\"n\"}}";
        Node record = LOANS.json(body.getBytes(StandardCharsets.UTF_8), beside, problems);
        assertEquals(problems, List.of());
        assertEquals(record.textOf("loan"), "HC-7");
        LOANS.json("{\"loan\":\"x\"}".getBytes(StandardCharsets.UTF_8), beside, problems);
        LOANS.json(new byte[0], Map.of("borrower", List.of("b"), "crate", List.of("1")), problems);
        assertEquals(
                problems.stream().map(p -> p.pointer() + " " + p.message()).toList(),
                List.of(
                        "/loan is given beside the document already",
                        "/borrower/name is missing",
                        "/loan is missing",
                        "/borrower has fields of its own: send it in a document",
                        "/crate is not known here; there are borrower, collect, crates, loan, tags"));
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
