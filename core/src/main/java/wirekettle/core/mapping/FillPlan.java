package wirekettle.core.mapping;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.XmlText;

/**
 * A request mapping compiled once: writes straight from the scope's trees to bytes, in schema order. Safe for several
 * threads.
 */
public final class FillPlan {
    private final byte[] open;
    private final byte[] between;
    private final byte[] close;
    private final List<PlanElement> headers;
    private final List<PlanElement> body;
    private final List<MappingProblem> design;

    private FillPlan(
            byte[] open,
            byte[] between,
            byte[] close,
            List<PlanElement> headers,
            List<PlanElement> body,
            List<MappingProblem> design) {
        this.open = open;
        this.between = between;
        this.close = close;
        this.headers = headers;
        this.body = body;
        this.design = List.copyOf(design);
    }

    /**
     * Compiles the fills of a message. Fills that do not fit become design problems, never an exception.
     *
     * @param version the envelope to write, null for the bare body element
     * @param known the variables in reach, null when any is accepted
     */
    public static FillPlan compile(
            Contract contract,
            Message message,
            SoapVersion version,
            List<Fill> fills,
            Set<String> known,
            Expressions expressions) {
        return new Compiler(contract, version, fills, known, expressions).compile(message);
    }

    /** Returns what is wrong with the mapping itself, before any record: required fields unfilled, bad expressions. */
    public List<MappingProblem> designProblems() {
        return design;
    }

    /**
     * Writes the message for one record.
     *
     * @return what is wrong with it; empty means the bytes may be sent
     */
    public List<MappingProblem> write(Scope scope, ByteOut out) {
        Writing writing = new Writing(scope, out, null);
        writing.all(this);
        return writing.problems;
    }

    /** Computes the value of every filled field for one record; fields by path, the first of repeated ones. */
    public Map<String, Computed> values(Scope scope, ByteOut out) {
        Writing writing = new Writing(scope, out, new LinkedHashMap<>());
        writing.all(this);
        for (MappingProblem problem : writing.problems) {
            Computed before = writing.values.get(problem.field());
            if (before == null || before.problem() == null) {
                writing.values.put(
                        problem.field(), new Computed(before == null ? problem.value() : before.value(), problem));
            }
        }
        return writing.values;
    }

    /**
     * The value of one field for one record.
     *
     * @param value the text, empty when there is none
     * @param problem what is wrong with it, or null
     */
    public record Computed(String value, MappingProblem problem) {}

    /** One pass over the plan. */
    static final class Writing {
        final ByteOut out;
        final List<MappingProblem> problems = new ArrayList<>();
        final Map<String, Computed> values;
        Scope scope;

        Writing(Scope scope, ByteOut out, Map<String, Computed> values) {
            this.scope = scope;
            this.out = out;
            this.values = values;
        }

        void all(FillPlan plan) {
            out.raw(plan.open);
            plan.headers.forEach(element -> element.write(this));
            out.raw(plan.between);
            plan.body.forEach(element -> element.write(this));
            out.raw(plan.close);
        }
    }

    private static final class Compiler {
        private final Contract contract;
        private final SoapVersion version;
        private final Map<String, Fill> byTarget = new HashMap<>();
        private final Set<String> filledAbove = new HashSet<>();
        private final Set<String> known;
        private final Expressions expressions;
        private final Map<String, String> prefixes = new LinkedHashMap<>();
        private final List<MappingProblem> design = new ArrayList<>();
        private final Set<String> placed = new HashSet<>();

        Compiler(Contract contract, SoapVersion version, List<Fill> fills, Set<String> known, Expressions expressions) {
            this.contract = contract;
            this.version = version;
            this.known = known;
            this.expressions = expressions;
            for (Fill fill : fills) {
                byTarget.put(fill.target(), fill);
                String path = fill.target();
                while (!path.isEmpty()) {
                    filledAbove.add(path);
                    path = parent(path);
                }
            }
        }

        /** Returns the path without its last step; slashes inside braces belong to a namespace. */
        private static String parent(String path) {
            int depth = 0;
            for (int i = path.length() - 1; i >= 0; i--) {
                char c = path.charAt(i);
                if (c == '}') {
                    depth++;
                } else if (c == '{') {
                    depth--;
                } else if (c == '/' && depth == 0) {
                    return path.substring(0, i);
                }
            }
            return "";
        }

        FillPlan compile(Message message) {
            List<PlanElement> headers = new ArrayList<>();
            for (ElementDecl header : message.headers()) {
                SheetField sheet = contract.sheet(header);
                if (filledAbove.contains(sheet.path())) {
                    headers.add(element(sheet, known));
                }
            }
            List<PlanElement> body = new ArrayList<>();
            for (ElementDecl each : message.body()) {
                body.add(element(contract.sheet(each), known));
            }
            for (Fill fill : byTarget.values()) {
                if (!placed.contains(fill.target())) {
                    design.add(new MappingProblem(
                            fill.target(), "", fill.id(), "target", "is not a field of this message"));
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

        private String declarations() {
            StringBuilder out = new StringBuilder();
            prefixes.forEach((uri, prefix) -> out.append(" xmlns:")
                    .append(prefix)
                    .append("=\"")
                    .append(XmlText.attribute(uri))
                    .append('"'));
            return out.toString();
        }

        private String qualified(SheetField field) {
            String namespace = field.name().namespace();
            if (namespace.isEmpty()) {
                return field.name().local();
            }
            return prefixes.computeIfAbsent(namespace, n -> "n" + (prefixes.size() + 1)) + ":"
                    + field.name().local();
        }

        private PlanElement element(SheetField field, Set<String> inReach) {
            String path = field.path();
            placed.add(path);
            String tag = qualified(field);
            PlanElement element = new PlanElement(path, tag, field);
            Fill fill = byTarget.get(path);
            Set<String> inside = inReach;
            if (fill != null && fill.repeat() != null) {
                element.repeat(fill, inReach, design);
                if (inReach != null) {
                    inside = new java.util.TreeSet<>(inReach);
                    inside.add(fill.as() == null ? "item" : fill.as());
                }
            } else if (fill != null) {
                element.fill(fill, source(fill, path, inReach));
            }
            for (SheetField child : field.children()) {
                boolean filled = filledAbove.contains(child.path());
                if (child.kind() == SheetField.Kind.ATTRIBUTE && (filled || child.required())) {
                    element.attributes.add(element(child, inside));
                } else if (child.kind() == SheetField.Kind.ELEMENT && (filled || needed(child))) {
                    element.children.add(element(child, inside));
                }
            }
            if (fill == null && field.fixed() == null && element.children.isEmpty() && mustHaveValue(field)) {
                design.add(new MappingProblem(path, "", null, "required", "is required and not filled"));
            }
            return element;
        }

        private static boolean needed(SheetField child) {
            return child.required() && !child.recursive();
        }

        /** A required leaf with no fill is a problem only where its parents will certainly be written. */
        private boolean mustHaveValue(SheetField field) {
            if (!field.holdsText() || emptyIsFine(field)) {
                return false;
            }
            for (SheetField at = field; at.parent() != null; at = at.parent()) {
                boolean written = at == field ? at.required() : at.required() || filledAbove.contains(at.path());
                if (!written) {
                    return false;
                }
            }
            return true;
        }

        private static boolean emptyIsFine(SheetField field) {
            return field.defaultValue() != null || field.nillable();
        }

        private ValueSource source(Fill fill, String path, Set<String> inReach) {
            try {
                ValueSource.conversion(fill);
                return ValueSource.of(fill, expressions, inReach);
            } catch (ExpressionProblem e) {
                design.add(new MappingProblem(path, "", fill.id(), "expression", e.getMessage()));
                return new Broken(e);
            }
        }

        private static byte[] bytes(String text) {
            return text.getBytes(StandardCharsets.UTF_8);
        }
    }

    /** Stands where an expression did not compile: every record fails with the reason. */
    private static final class Broken extends ValueSource {
        private final ExpressionProblem problem;

        Broken(ExpressionProblem problem) {
            this.problem = problem;
        }

        @Override
        String raw(Scope scope) throws ExpressionProblem {
            throw problem;
        }
    }
}
