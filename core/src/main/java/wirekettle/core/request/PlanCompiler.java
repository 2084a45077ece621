package wirekettle.core.request;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.fill.CompiledFill;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.fill.ValueSource;
import wirekettle.core.schema.ContentModel;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.EmbeddedShape;
import wirekettle.core.schema.KnownSchemas;
import wirekettle.core.schema.Picks;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.schema.SoapEncoding;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Name;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.XmlText;

/** Compiles the fills of one message into a plan; what does not fit becomes a design problem. */
final class PlanCompiler {
    private static final String SOAP = "http://schemas.xmlsoap.org/soap/envelope/";

    private final Contract contract;
    private final SoapVersion version;
    private final Map<String, Fill> byTarget = new LinkedHashMap<>();
    private final Map<String, Integer> order = new HashMap<>();
    private final Set<String> filledAbove = new HashSet<>();
    private final Picks picks;
    private final Set<String> known;
    private final MappingContext context;
    private final Map<String, EmbeddedShape> documents;
    private final MessageStyle style;
    private final Map<String, String> wanted;
    private Map<String, String> prefixes = new LinkedHashMap<>();
    private final List<MappingProblem> design = new ArrayList<>();
    private final Set<String> placed = new HashSet<>();
    private boolean encoded;
    private boolean inDocument;

    PlanCompiler(Contract contract, SoapVersion version, List<Fill> fills, Set<String> known, MappingContext context) {
        this.contract = contract;
        this.version = version;
        this.known = known;
        this.context = context;
        this.style = context.style();
        this.documents = EmbeddedDocument.shapes(context.documents(), "request");
        this.wanted = style.prefixes() == MessageStyle.Prefixes.CONTRACT ? contract.prefixes() : Map.of();
        for (Fill fill : fills) {
            byTarget.put(fill.target(), fill);
            order.putIfAbsent(fill.target(), order.size());
            above(fill.target());
        }
        this.picks = Picks.of(byTarget.keySet());
    }

    private void above(String target) {
        try {
            SheetPath path = SheetPath.parse(target);
            int first = order.get(target);
            while (!path.steps().isEmpty()) {
                filledAbove.add(path.toString());
                order.merge(path.toString(), first, Math::min);
                path = path.parent();
            }
        } catch (IllegalArgumentException e) {
            filledAbove.add(target); // told below: it is no field of any message
        }
    }

    FillPlan compile(Message message) {
        encoded = message.encoded();
        List<PlanElement> headers = new ArrayList<>();
        for (ElementDecl header : message.headers()) {
            SheetField sheet = root(header);
            if (filledAbove.contains(sheet.path())) {
                headers.add(element(sheet, known, ""));
            }
        }
        List<PlanElement> body = new ArrayList<>();
        for (ElementDecl each : message.body()) {
            body.add(element(root(each), known, ""));
        }
        for (Fill fill : byTarget.values()) {
            if (!placed.contains(fill.target())) {
                design.add(
                        new MappingProblem(fill.target(), "", fill.id(), "target", "is not a field of this message"));
            }
        }
        String declared = declarations();
        if (version == null) {
            body.forEach(element -> element.declare(declared));
            return new FillPlan(new byte[0], new byte[0], new byte[0], headers, body, design);
        }
        String start = "<soap:Envelope xmlns:soap=\"" + version.envelope() + "\"" + declared + ">";
        boolean header = !headers.isEmpty();
        return new FillPlan(
                bytes(start + (header ? "<soap:Header>" : "<soap:Body>")),
                bytes(header ? "</soap:Header><soap:Body>" : ""),
                bytes("</soap:Body></soap:Envelope>"),
                headers,
                body,
                design);
    }

    private SheetField root(ElementDecl declaration) {
        return picks.inPlaceOf(contract.sheet(declaration, documents)).get(0);
    }

    private String declarations() {
        StringBuilder out = new StringBuilder();
        prefixes.forEach((uri, prefix) -> out.append(" xmlns:")
                .append(prefix)
                .append("=\"")
                .append(XmlText.attribute(uri))
                .append('"'));
        return out.toString();
    }

    private String prefix(String namespace) {
        if (namespace.equals(KnownSchemas.XML)) {
            return "xml";
        }
        return prefixes.computeIfAbsent(namespace, n -> {
            String own = n.equals(NodeReader.XSI) ? "xsi" : wanted.get(n);
            boolean free = own != null && !own.equals("soap") && !prefixes.containsValue(own);
            return free ? own : "n" + (prefixes.size() + 1);
        });
    }

    private String qualified(Name name) {
        return name.namespace().isEmpty() ? name.local() : prefix(name.namespace()) + ":" + name.local();
    }

    /** Returns the start tag without its end, and the end tag's name. */
    private String[] tags(SheetField field, String outer) {
        Name name = field.name();
        if (field.kind() == SheetField.Kind.ATTRIBUTE || style.prefixes() != MessageStyle.Prefixes.NONE) {
            return new String[] {qualified(name), qualified(name)};
        }
        boolean changes = !name.namespace().equals(outer);
        String declared = changes ? " xmlns=\"" + XmlText.attribute(name.namespace()) + "\"" : "";
        return new String[] {name.local() + declared, name.local()};
    }

    private String typeAttributes(SheetField field) {
        if (field.kind() != SheetField.Kind.ELEMENT) {
            return "";
        }
        StringBuilder out = new StringBuilder();
        Name type = field.type().name();
        boolean tells = field.picked() != null || (encoded || style.forceTypes()) && type != null;
        if (tells && !field.unresolved() && !type.local().equals("anyType")) {
            out.append(' ').append(prefix(NodeReader.XSI)).append(":type=\"");
            out.append(qualified(type)).append('"');
        }
        if (encoded && field.parent() == null) {
            String soap = version == SoapVersion.SOAP_11 ? "soap" : prefix(SOAP);
            out.append(' ')
                    .append(soap)
                    .append(":encodingStyle=\"")
                    .append(SoapEncoding.NAMESPACE)
                    .append('"');
        }
        return out.toString();
    }

    private PlanElement element(SheetField field, Set<String> inReach, String outer) {
        String path = field.path();
        placed.add(path);
        String[] tags = tags(field, outer);
        PlanElement element = new PlanElement(path, tags[0] + typeAttributes(field), tags[1], field, style.sendEmpty());
        if (encoded && field.arrayOf() != null) {
            element.array(prefix(SoapEncoding.NAMESPACE) + ":arrayType=\"" + qualified(field.arrayOf()));
        }
        Fill fill = byTarget.get(path);
        Set<String> inside = fill == null ? inReach : filled(element, field, fill, inReach);
        for (SheetField child : inOrder(field.children())) {
            boolean filled = filledAbove.contains(child.path());
            if (child.embedded()) {
                if (filled) {
                    document(element, field, documentRoot(child, inside));
                }
            } else if (child.kind() == SheetField.Kind.ANY && filled) {
                placed.add(child.path());
                child.children().forEach(root -> element.children.add(documentRoot(root, inside)));
            } else if (child.kind() == SheetField.Kind.ATTRIBUTE && (filled || child.required())) {
                element.attributes.add(element(child, inside, ""));
            } else if (child.kind() == SheetField.Kind.ELEMENT && (filled || needed(child))) {
                child(element, element(child, inside, field.name().namespace()), child);
            } else if (child.min() > 0 && child.choice() == null && child.kind() != SheetField.Kind.ATTRIBUTE) {
                boolean any = child.kind() == SheetField.Kind.ANY;
                element.unpicked("needs "
                        + (any ? "an element of your choice" : child.name().local()) + " inside it");
            }
        }
        // who wants another order than the schema's, or the items of an array, cannot be held against it
        element.model(encoded || style.orderAsGiven() ? null : ContentModel.of(field));
        check(field, fill, element);
        element.complete(fill);
        return element;
    }

    /** Several fields picked for one place are alternatives: the first whose condition is true is written. */
    private void child(PlanElement parent, PlanElement made, SheetField field) {
        int at = parent.children.size() - 1;
        PlanElement last = at < 0 ? null : parent.children.get(at);
        if (last == null || !last.alternativeTo(field)) {
            parent.children.add(made);
        } else if (last.conditional()) {
            last.otherwise(made);
        } else if (made.conditional()) {
            made.otherwise(last);
            parent.children.set(at, made);
        } else {
            design.add(new MappingProblem(
                    made.path, "", null, "pick", "is picked beside another for the same place: give one a condition"));
        }
    }

    /** A field of any type holds an XML document as it is, one of text holds it as text. */
    private static void document(PlanElement element, SheetField field, PlanElement root) {
        boolean asText = field.rule() != null
                || field.document().form() == DocumentForm.JSON
                || !field.document().wraps().isEmpty();
        if (asText) {
            element.document(new PlanDocument(field.document(), root));
        } else {
            element.children.add(root);
        }
    }

    /** A document stands on its own: it declares the namespaces it uses, and nothing of the message around it. */
    private PlanElement documentRoot(SheetField root, Set<String> inReach) {
        Map<String, String> around = prefixes;
        boolean encodedAround = encoded;
        boolean documentAround = inDocument;
        inDocument = true;
        prefixes = new LinkedHashMap<>();
        encoded = false;
        PlanElement made = element(root, inReach, "");
        made.declare(declarations());
        made.optional();
        prefixes = around;
        encoded = encodedAround;
        inDocument = documentAround;
        return made;
    }

    /** Gives an element what its fill says; returns what is known inside it. */
    private Set<String> filled(PlanElement element, SheetField field, Fill fill, Set<String> inReach) {
        Set<String> inside = inReach;
        try {
            if (fill.when() != null && !fill.when().isBlank()) {
                element.when(context.expressions().compile(fill.when(), inReach));
            }
            if (fill.repeat() != null) {
                inside = RepeatedNodes.inside(fill, inReach);
                element.repeat(fill.id(), RepeatedNodes.of(fill, context.expressions(), inReach));
                if (field.rule() != null && field.document() == null) {
                    element.fill(fill.id(), CompiledFill.of(eachValue(fill), context, inside));
                    checkFile(field, fill);
                }
            } else if (fill.picks()) {
                element.pick(fill.id());
            } else if (fill.by() instanceof FilledBy.Copy copy) {
                ValueSource.path(copy.from(), inReach);
                new SubtreeCopy(this::added, byTarget::containsKey).of(fill.id(), copy.from(), field);
            } else if (fill.by() instanceof FilledBy.Signature signature) {
                signed(element, field, fill, signature);
            } else if (fill.nil()) {
                element.nil(fill.id());
                if (!field.nillable()) {
                    problem(field, fill, "invalid", "is not nillable, and its fill always sends nil");
                }
            } else {
                element.fill(fill.id(), CompiledFill.of(fill, context, inReach));
                checkFile(field, fill);
            }
        } catch (ExpressionProblem e) {
            problem(field, fill, "expression", e.getMessage());
            element.broken(fill.id(), e);
        }
        return inside;
    }

    private void signed(PlanElement element, SheetField field, Fill fill, FilledBy.Signature signature) {
        if (!SignatureSkeleton.fits(field)) {
            problem(field, fill, "invalid", "is no element Signature of XML Signature: a signature cannot stand in it");
        } else if (signature.over() == null || !signature.over().startsWith("/")) {
            problem(field, fill, "invalid", "does not say over which element the signature is");
        } else {
            element.pick(fill.id());
            new SignatureSkeleton(this::added, fill.id()).of(signature, field.path());
        }
    }

    private void checkFile(SheetField field, Fill fill) {
        ValueRule rule = field.rule();
        boolean binary = rule != null
                && rule.builtIn() != null
                && rule.builtIn().name().equals("base64Binary")
                && field.kind() == SheetField.Kind.ELEMENT;
        if (fill.file() != null && (!binary || inDocument)) {
            String why = inDocument
                    ? "stands in a document inside a field, where no file can be sent"
                    : "is no element of base64Binary: a file cannot be sent in it";
            problem(field, fill, "invalid", why);
        }
    }

    /** A repeated field of text holds the text of each node, unless the fill says more. */
    private static Fill eachValue(Fill fill) {
        FilledBy value = fill.repeat().value();
        return fill.by(value == null ? new FilledBy.Wire("$" + RepeatedNodes.variable(fill)) : value);
    }

    /** Takes a fill that follows from another. */
    private void added(Fill fill) {
        byTarget.put(fill.target(), fill);
        order.putIfAbsent(fill.target(), order.size());
        above(fill.target());
    }

    private void problem(SheetField field, Fill fill, String code, String message) {
        design.add(new MappingProblem(field.path(), "", fill.id(), code, message));
    }

    private List<SheetField> inOrder(List<SheetField> declared) {
        List<SheetField> all = new ArrayList<>();
        declared.forEach(child -> all.addAll(picks.inPlaceOf(child)));
        if (style.orderAsGiven()) {
            all.sort(Comparator.comparingInt(f -> order.getOrDefault(f.path(), Integer.MAX_VALUE)));
        }
        return all;
    }

    private void check(SheetField field, Fill fill, PlanElement element) {
        String path = field.path();
        if (fill == null && field.fixed() == null && element.children.isEmpty() && mustHaveValue(field)) {
            design.add(new MappingProblem(path, "", null, "required", "is required and not filled"));
        }
        if (field.isAbstract()) {
            int types = field.typeChoices().size();
            int elements = field.elementChoices().size();
            String what = elements > 0
                    ? "pick one of the " + elements + " elements that stand for it"
                    : "pick one of its " + types + " types";
            element.unpicked("is abstract: " + what);
            if (filledAbove.contains(path) || certain(field)) {
                design.add(
                        new MappingProblem(path, "", fill == null ? null : fill.id(), "pick", "is abstract: " + what));
            }
        }
        Map<Integer, List<SheetField>> groups = new TreeMap<>();
        for (SheetField child : field.children()) {
            if (child.choice() != null && child.kind() == SheetField.Kind.ELEMENT) {
                groups.computeIfAbsent(child.choice().group(), g -> new ArrayList<>())
                        .add(child);
            }
        }
        for (List<SheetField> group : groups.values()) {
            SheetField.Choice choice = group.get(0).choice();
            element.choice(choice);
            boolean any = group.stream()
                    .anyMatch(
                            f -> filledAbove.contains(f.path()) || picks.uses(path, f.name()) || substituted(path, f));
            if (choice.required() && !any && certain(field)) {
                List<String> names =
                        group.stream().limit(5).map(f -> f.name().local()).toList();
                design.add(new MappingProblem(
                        path, "", null, "choice", "needs one of " + String.join(", ", names) + ": fill or pick one"));
            }
        }
    }

    private boolean substituted(String path, SheetField field) {
        return field.elementChoices().stream().anyMatch(name -> picks.uses(path, name));
    }

    private static boolean needed(SheetField child) {
        return child.required() && !child.recursive();
    }

    /** A required leaf with no fill is a problem only where its parents will certainly be written. */
    private boolean mustHaveValue(SheetField field) {
        return field.holdsText()
                && field.defaultValue() == null
                && !field.nillable()
                && certain(field)
                && (field.parent() == null || field.required());
    }

    private boolean nilAlways(SheetField field) {
        Fill fill = byTarget.get(field.path());
        return fill != null && fill.nil();
    }

    private boolean certain(SheetField field) {
        for (SheetField at = field; at.parent() != null; at = at.parent()) {
            if (!at.required() && !filledAbove.contains(at.path())) {
                return false;
            }
            // a structure that may be nil is nil where nothing is put into it
            if (at != field && at.nillable() && (nilAlways(at) || !filledAbove.contains(at.path()))) {
                return false;
            }
        }
        return true;
    }

    private static byte[] bytes(String text) {
        return text.getBytes(StandardCharsets.UTF_8);
    }
}
