package wirekettle.core.request;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath.Step;
import wirekettle.core.soap.Reply;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Reads the text of a message back into the constants and picks that would write it: the sheet follows the text. */
public final class ConstantFills {
    private final List<Fill> fills = new ArrayList<>();
    private final List<String> problems = new ArrayList<>();
    private final List<Fill> any = new ArrayList<>();

    private ConstantFills() {}

    /**
     * What a text holds.
     *
     * @param fills a constant for every value, a pick for what is there without one
     * @param problems what is in the text and has no field in the sheet
     * @param any what stands where the contract takes anything, as XML text at the place of that row
     */
    public record Result(List<Fill> fills, List<String> problems, List<Fill> any) {}

    /**
     * Reads a message.
     *
     * @param version the envelope expected, null for the bare element
     * @throws XmlProblem when the text is no XML, with its place
     */
    public static Result of(Contract contract, Message message, SoapVersion version, String text) throws XmlProblem {
        Node root = NodeReader.read(
                new ByteArrayInputStream(text.getBytes(StandardCharsets.UTF_8)), "envelope", XmlLimits.MESSAGES);
        ConstantFills read = new ConstantFills();
        if (version == null) {
            read.roots(contract, message.body(), List.of(root));
        } else if (root.child("Body") == null) {
            read.problems.add("the text is " + root.name().local() + ", no envelope with a body");
        } else {
            Node header = root.child("Header");
            read.roots(contract, message.headers(), header == null ? List.of() : header.children());
            read.roots(contract, message.body(), root.child("Body").children());
        }
        return read.done();
    }

    private Result done() {
        return new Result(List.copyOf(fills), List.copyOf(problems), List.copyOf(any));
    }

    /** Reads a reply that was taken apart already, its references resolved. */
    public static Result of(Contract contract, Message message, Reply reply) {
        ConstantFills read = new ConstantFills();
        read.roots(contract, message.headers(), reply.headers());
        read.roots(contract, message.body(), reply.body());
        return read.done();
    }

    /** Reads a message that is a tree already. */
    public static Result of(Contract contract, Message message, Node body) {
        ConstantFills read = new ConstantFills();
        read.roots(contract, message.body(), List.of(body));
        return read.done();
    }

    private void roots(Contract contract, List<ElementDecl> declared, List<Node> nodes) {
        for (Node node : nodes) {
            SheetField found = null;
            for (ElementDecl each : declared) {
                found = found == null ? contract.sheet(each).as(new Step(node.name(), false, 1, null)) : found;
            }
            if (found == null) {
                problems.add(node.name().local() + " is no part of this message; it has no row in the sheet");
            } else {
                walk(node, found);
            }
        }
    }

    private void walk(Node node, SheetField field) {
        int before = fills.size();
        for (Node attribute : node.attributes()) {
            String namespace = attribute.name().namespace();
            boolean technical = namespace.contains("/soap/") || namespace.contains("/soap-e");
            SheetField its = technical ? null : attribute(field, attribute.name());
            if (its != null) {
                constant(its, attribute.text());
            } else if (!technical) {
                problems.add("@" + attribute.name().local() + " is no attribute of "
                        + field.name().local());
            }
        }
        Map<SheetField, Integer> seen = new HashMap<>();
        for (Node child : node.children()) {
            child(child, field, seen);
        }
        if (node.children().isEmpty() && !node.text().isEmpty() && field.holdsText()) {
            constant(field, node.text());
        } else if (fills.size() == before && (!field.required() || node.nil() || field.picked() != null)) {
            if (field.parent() != null) {
                fills.add(Fill.pick("c" + (fills.size() + 1), field.path()));
            }
        }
    }

    private static SheetField attribute(SheetField field, Name name) {
        return field.children().stream()
                .filter(f -> f.kind() == SheetField.Kind.ATTRIBUTE && f.name().equals(name))
                .findFirst()
                .orElse(null);
    }

    private void child(Node child, SheetField parent, Map<SheetField, Integer> seen) {
        for (SheetField declared : parent.children()) {
            int occurrence = seen.getOrDefault(declared, 0) + 1;
            Name type =
                    child.type() == null || child.type().equals(declared.type().name()) ? null : child.type();
            SheetField found = declared.as(new Step(child.name(), false, occurrence, type));
            if (found == null && type != null) {
                found = declared.as(new Step(child.name(), false, occurrence, null));
                if (found != null && !type.equals(found.type().name())) {
                    problems.add(child.name().local() + " has the type " + type.local() + ", which cannot stand there");
                }
            }
            if (found != null) {
                seen.put(declared, occurrence);
                walk(child, found);
                return;
            }
        }
        SheetField anything = parent.children().stream()
                .filter(field -> field.kind() == SheetField.Kind.ANY)
                .findFirst()
                .orElse(null);
        if (anything != null) {
            any.add(Fill.constant("any" + (any.size() + 1), anything.path(), NodeWriter.write(child, false)));
            return;
        }
        problems.add(
                child.name().local() + " is no field of " + parent.name().local() + "; it has no row in the sheet");
    }

    private void constant(SheetField field, String text) {
        fills.add(Fill.constant("c" + (fills.size() + 1), field.path(), text));
    }
}
