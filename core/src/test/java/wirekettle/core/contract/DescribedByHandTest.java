package wirekettle.core.contract;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.stream.Collectors;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.openapi.DescribedByHand;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.HttpText;
import wirekettle.core.soap.MessageText;
import wirekettle.core.value.Node;

/** Operations somebody describes with samples, read like any other contract. */
public class DescribedByHandTest {
    private static DescribedByHand operation(String method, String path, String body, String reply) {
        return new DescribedByHand(
                "Rates",
                "http://rates.invalid/v4",
                "rate",
                method,
                path,
                List.of("kilograms*", "on"),
                List.of("X-Desk"),
                body,
                reply);
    }

    private static Contract read(byte[] document) throws ContractRefused {
        return ContractReader.read(new GivenDocuments().add("described.json", document), true);
    }

    private static String rows(Contract contract, SheetField field) {
        return field.children().stream()
                .map(f -> (f.kind() == SheetField.Kind.ATTRIBUTE ? "@" : "")
                        + f.name().local()
                        + (f.rule() == null ? "" : " " + f.rule().builtIn().name())
                        + (f.max() < 0 ? "*" : "")
                        + (f.children().isEmpty() ? "" : "(" + rows(contract, f) + ")"))
                .collect(Collectors.joining(", "));
    }

    @Test
    public void placesAndParametersAreRows() throws Exception {
        Contract contract =
                read(operation("get", "/rates/{from}/{to}", null, null).document(null));
        Offered offered = contract.operations().get(0);
        assertEquals(offered.port().address(), "http://rates.invalid/v4");
        assertEquals(
                rows(contract, contract.sheet(offered.operation().input().body().get(0))),
                "from string, to string, kilograms string, on string, X-Desk string");
        assertEquals(offered.operation().kind(), OperationKind.ONE_WAY);
    }

    @DataProvider
    public Object[][] samples() {
        return new Object[][] {
            {
                "{\"total\": 12.5, \"day\": \"2026-12-01\", \"lines\": [{\"no\": 1}, {\"no\": 2, \"late\": true}], \"note\": null}",
                "total decimal, day date, lines*(no integer, late boolean), note"
            },
            {"[{\"code\": \"NOR\"}, {\"code\": \"VEL\", \"name\": \"Velmere\"}]", "item*(code string, name string)"},
            {
                "<r:rates xmlns:r='urn:rates'><r:rate zone='NOR'>2.35</r:rate><r:rate zone='VEL'>3</r:rate>"
                        + "<r:until>2026-12-31</r:until></r:rates>",
                "rate string*(@zone string), until date"
            },
        };
    }

    @Test(dataProvider = "samples")
    public void theReplyIsLearnedFromASample(String sample, String rows) throws Exception {
        Contract contract = read(operation("GET", "/rates", null, sample).document(null));
        Operation operation = contract.operations().get(0).operation();
        assertEquals(rows(contract, contract.sheet(operation.output().body().get(0))), rows);
        Node read = Caller.reread(operation, sample.getBytes(StandardCharsets.UTF_8))
                .body()
                .get(0);
        assertEquals(read.name(), operation.output().body().get(0).name());
        assertEquals(
                contract.check()
                        .problems(wirekettle.core.value.NodeWriter.write(read, false)
                                .getBytes(StandardCharsets.UTF_8)),
                List.of());
    }

    @DataProvider
    public Object[][] bodies() {
        return new Object[][] {
            {"{\"loan\": \"HC-1\", \"crates\": [{\"kg\": 7}]}"},
            {"<q:quote xmlns:q='urn:q' urgent='true'><q:loan>HC-1</q:loan></q:quote>"},
        };
    }

    @Test(dataProvider = "bodies")
    public void aBodyLikeItsSampleIsReadAndWrittenBack(String body) throws Exception {
        Contract contract =
                read(operation("POST", "/quotes", body, "{\"id\": 1}").document(null));
        Offered offered = contract.operations().get(0);
        String type = body.startsWith("<") ? "application/xml" : "application/json";
        String text = "POST /quotes?kilograms=7\nContent-Type: " + type + "\n\n" + body;
        Node message = HttpText.parse(text).message(contract, offered);
        HttpText written = HttpText.of(contract, offered, message, false);
        assertEquals(
                wirekettle.core.value.NodeComparison.of(
                        MessageText.node(body), MessageText.node(written.body()), java.util.Set.of()),
                List.of(),
                written.body());
        assertEquals(written.target(), "/quotes?kilograms=7");
    }

    @Test
    public void anotherOperationIsAddedToTheSameService() throws Exception {
        byte[] first = operation("GET", "/rates", null, "{\"a\": 1}").document(null);
        byte[] both =
                new DescribedByHand(null, null, "withdraw", "DELETE", "/rates", null, null, null, null).document(first);
        assertEquals(
                read(both).operations().stream().map(o -> o.operation().key()).toList(), List.of("rate", "withdraw"));
        expectThrows(DescribedByHand.Wrong.class, () -> operation("GET", "/rates", null, null)
                .document(both));
    }

    @DataProvider
    public Object[][] wrong() {
        return new Object[][] {
            {operation("LOOK", "/rates", null, null), "the method is one of"},
            {operation("GET", "rates", null, null), "begins with a slash"},
            {operation("GET", "/rates?a=b", null, null), "question mark"},
            {operation("POST", "/rates", "{\"a\": ", null), "body sample is neither JSON nor XML at line 1"},
            {operation("GET", "/rates", null, "<a><b></a>"), "reply sample cannot be read at line 1"},
            {new DescribedByHand("", "http://a.invalid", "a", "GET", "/", null, null, null, null), "needs a name"},
            {new DescribedByHand("A", "a.invalid", "a", "GET", "/", null, null, null, null), "begins with http"},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatCannotBeUsedIsSaid(DescribedByHand described, String said) {
        DescribedByHand.Wrong e = expectThrows(DescribedByHand.Wrong.class, () -> described.document(null));
        assertTrue(e.getMessage().contains(said), e.getMessage());
    }
}
