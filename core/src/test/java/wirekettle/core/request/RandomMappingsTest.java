package wirekettle.core.request;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.Fill.WhenEmpty.Use;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * Whatever is filled with whatever, a message is either refused with its reasons or valid: the JDK's validator judges
 * every one that would be sent.
 */
public class RandomMappingsTest {
    private static final int SEEDS = Integer.getInteger("seeds", 6);

    private static final String[] VALUES = {
        "",
        " ",
        "x",
        "0",
        "-7",
        "96,5",
        "96.5",
        "1e5",
        "INF",
        "true",
        "yes",
        "2026-12-04",
        "2026-13-01",
        "04.12.2026",
        "2026-12-04T10:00:00Z",
        "2026-12-04T25:00:00",
        "10:00:00",
        "P1D",
        "AAEC",
        "=no base64=",
        "<&>\"'",
        "a\u0001b",
        "Öderstad 😀",
        "HC-20481",
        "HC-20481-1",
        "RG-10400",
        "NO",
        "A",
        "B1",
        "loan",
        "12345678901234567890",
        "\tline\n",
        "Halewick Crating, Quay 4, behind the old rope walk, second door on the left, ring twice",
        "urn:x",
        "p:q"
    };

    private Random random;
    private final List<Fill> fills = new ArrayList<>();
    private final Map<String, String> examples = new LinkedHashMap<>();

    @DataProvider
    public Object[][] messages() {
        List<Object[]> all = new ArrayList<>();
        for (String folder : List.of("register", "vanline", "clearance", "climate")) {
            add(folder, World.contract(World.documents(folder)), all);
        }
        for (String resource : List.of("consignment.wsdl", "crate-kinds.wsdl")) {
            add(resource, World.contract(World.resource(resource)), all);
        }
        for (String file : World.awkward()) {
            Contract contract = World.awkward(file);
            if (contract.findings().isEmpty()) {
                add(file, contract, all);
            }
        }
        return all.toArray(Object[][]::new);
    }

    private static void add(String name, Contract contract, List<Object[]> into) {
        for (Contract.Offered offered : contract.operations()) {
            Message input = offered.operation().input();
            // the schemas say nothing of encoded messages
            if (!input.encoded() && offered.port().soapVersion() != null) {
                into.add(new Object[] {offered.operation().key() + " of " + name, contract, input});
            }
        }
    }

    @Test(dataProvider = "messages")
    public void aMessageIsRefusedWithReasonsOrValid(String name, Contract contract, Message message) {
        int written = 0;
        for (int seed = 1; seed <= SEEDS; seed++) {
            random = new Random(seed * 7_919L);
            fills.clear();
            examples.clear();
            message.elements().forEach(e -> fill(contract.sheet(e), "r", 0));
            FillPlan plan = FillPlan.compile(
                    contract, message, SoapVersion.SOAP_11, fills, Set.of("r"), MappingContext.of(new Expressions()));
            for (int record = 0; record < 6; record++) {
                // the first records have nothing but what fits, so that some messages are written
                Scope scope = Scope.empty().with("r", record(record < 2 ? 0 : 0.15 * record));
                ByteOut out = new ByteOut();
                List<MappingProblem> problems = plan.write(scope, out);
                if (problems.isEmpty()) {
                    written++;
                    String text = new String(out.bytes(), StandardCharsets.UTF_8);
                    List<String> wrong = new MessageCheck(contract.check(), SoapVersion.SOAP_11).problems(out.bytes());
                    assertEquals(String.join("; ", wrong), "", name + " seed " + seed + ": " + text + "\n" + fills);
                }
                for (MappingProblem problem : problems) {
                    assertTrue(!problem.field().isEmpty() && !problem.message().isEmpty(), problem.toString());
                }
            }
        }
        assertTrue(written > 0 || SEEDS < 6 || name.endsWith(".wsdl"), name + " was never written");
    }

    /** Fills a field and what is below it by chance; a variable reaches what the values come from. */
    private void fill(SheetField field, String variable, int depth) {
        if (field.kind() == SheetField.Kind.ANY || field.recursive() || depth > 7 || field.fixed() != null) {
            return;
        }
        boolean wanted = depth == 0 || random.nextInt(100) < (field.required() ? 99 : 35);
        if (!wanted) {
            return;
        }
        SheetField at = chosen(field);
        String inside = variable;
        if (depth > 0 && at.max() != 1 && random.nextInt(3) > 0) {
            inside = "i" + depth;
            Fill repeat = Fill.repeat(id(), at.path(), "$" + variable + "/list", inside);
            fills.add(
                    random.nextInt(3) == 0
                            ? repeat.with(new Fill.Each("$" + inside + "/odd = 'x'", null, null))
                            : repeat);
            if (at.rule() != null && at.children().isEmpty()) {
                return;
            }
        } else if (at != field && at.children().isEmpty() && at.rule() == null) {
            fills.add(Fill.pick(id(), at.path()));
        }
        if (at.rule() != null && (inside.equals(variable) || !at.children().isEmpty())) {
            fills.removeIf(f -> f.target().equals(at.path()) && f.repeat() == null);
            if (fills.stream().noneMatch(f -> f.target().equals(at.path()))) {
                fills.add(valued(at, inside));
            }
        }
        int taken = at.children().isEmpty() ? 0 : random.nextInt(4);
        for (SheetField child : at.children()) {
            SheetField.Choice choice = child.choice();
            // of a choice mostly one branch, now and then several
            if (choice == null
                    || random.nextInt(12) == 0
                    || choice.branch() == (choice.group() + taken) % choice.of()) {
                fill(child, inside, depth + 1);
            }
        }
    }

    private SheetField chosen(SheetField field) {
        List<Name> types = field.typeChoices();
        if (field.kind() == SheetField.Kind.ELEMENT && !types.isEmpty() && random.nextInt(5) > 0) {
            Name type = types.get(random.nextInt(types.size()));
            SheetField picked = field.as(new SheetPath.Step(field.name(), false, 1, type));
            return picked == null ? field : picked;
        }
        List<Name> elements = field.kind() == SheetField.Kind.ELEMENT ? field.elementChoices() : List.of();
        if (!elements.isEmpty() && random.nextInt(5) > 0) {
            SheetField picked =
                    field.as(new SheetPath.Step(elements.get(random.nextInt(elements.size())), false, 1, null));
            return picked == null ? field : picked;
        }
        return field;
    }

    private String id() {
        return "q" + (fills.size() + 1);
    }

    private Fill valued(SheetField field, String variable) {
        String source = "v" + examples.size();
        examples.put(source, String.valueOf(field.rule().example()));
        String wire = "$" + variable + "/" + source;
        Fill fill =
                switch (random.nextInt(8)) {
                    case 0 -> Fill.constant(id(), field.path(), examples.get(source));
                    case 1 -> Fill.expression(id(), field.path(), "string(" + wire + ")");
                    case 2 -> Fill.expression(id(), field.path(), "if (" + wire + " = 'x') then '' else " + wire);
                    default -> Fill.wire(id(), field.path(), wire);
                };
        Use use = Use.values()[random.nextInt(5)];
        fill = random.nextInt(4) == 0
                ? fill.with(new Fill.WhenEmpty(use, use == Use.DEFAULT ? examples.get(source) : null))
                : fill;
        return random.nextInt(9) == 0 ? fill.onlyWhen("$r/odd = 'x'") : fill;
    }

    /** A record that has every value wanted, some of them spoiled, and lists of such records inside it. */
    private Node record(double spoiled) {
        return record(spoiled, 0);
    }

    private Node record(double spoiled, int depth) {
        Node.Builder node = Node.build(Name.of(depth == 0 ? "r" : "list"));
        node.add("odd", random.nextBoolean() ? "x" : "y");
        examples.forEach((name, example) ->
                node.add(name, random.nextDouble() < spoiled ? VALUES[random.nextInt(VALUES.length)] : example));
        for (int i = random.nextInt(4); depth < 4 && i >= 0; i--) {
            node.add(record(spoiled, depth + 1));
        }
        return node.done();
    }
}
