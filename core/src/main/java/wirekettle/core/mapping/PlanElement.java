package wirekettle.core.mapping;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import wirekettle.core.mapping.FillPlan.Computed;
import wirekettle.core.mapping.FillPlan.Writing;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Conversion;
import wirekettle.core.value.ConversionException;
import wirekettle.core.value.Node;
import wirekettle.core.value.XmlText;

/** One element or attribute of a plan, its tags ready as bytes. Immutable once the plan is compiled. */
final class PlanElement {
    final List<PlanElement> attributes = new ArrayList<>();
    final List<PlanElement> children = new ArrayList<>();
    private final String path;
    private final boolean attribute;
    private final boolean required;
    private final boolean nillable;
    private final String fixed;
    private final ValueRule rule;
    private final boolean leaf;
    private byte[] open;
    private final byte[] close;
    private String fillId;
    private ValueSource source;
    private Conversion conversion;
    private WirePath repeat;
    private String as;
    private boolean picked;
    private final boolean sendEmpty;
    private final SheetField.Choice branch;
    private final List<SheetField.Choice> choices = new ArrayList<>(0);
    private byte[] array;

    PlanElement(String path, String tag, String endTag, SheetField field, boolean sendEmpty) {
        this.sendEmpty = sendEmpty;
        this.branch = field.choice();
        this.path = path;
        this.attribute = field.kind() == SheetField.Kind.ATTRIBUTE;
        this.required = field.parent() == null || field.required();
        this.nillable = field.nillable();
        this.fixed = field.fixed() != null ? field.fixed() : field.defaultValue();
        this.rule = field.rule();
        this.leaf = field.holdsText();
        this.open = bytes(attribute ? " " + tag + "=\"" : "<" + tag);
        this.close = bytes(attribute ? "\"" : "</" + endTag + ">");
    }

    private static byte[] bytes(String text) {
        return text.getBytes(StandardCharsets.UTF_8);
    }

    private static final byte[] END = bytes(">");
    private static final byte[] END_EMPTY = bytes("/>");
    private static final byte[] NIL =
            bytes(" xmlns:xsi=\"http://www.w3.org/2001/XMLSchema-instance\" xsi:nil=\"true\"/>");

    void declare(String namespaces) {
        open = bytes(new String(open, StandardCharsets.UTF_8) + namespaces);
    }

    /** The element is wanted whenever its parent is written. */
    void pick(String id) {
        fillId = id;
        picked = true;
    }

    /** The children among which only one branch may be written. */
    void choice(SheetField.Choice choice) {
        choices.add(choice);
    }

    /** The element is a SOAP array: {@code attribute} is the start of the attribute that names and counts its items. */
    void array(String attribute) {
        array = bytes(" " + attribute + "[");
    }

    void fill(Fill fill, ValueSource from) {
        fillId = fill.id();
        source = from;
        try {
            conversion = ValueSource.conversion(fill);
        } catch (ExpressionProblem e) {
            conversion = null; // said already as a design problem
        }
    }

    void repeat(Fill fill, Set<String> known, List<MappingProblem> design) {
        fillId = fill.id();
        as = fill.as() == null ? "item" : fill.as();
        try {
            repeat = WirePath.parse(fill.repeat());
            if (known != null && !known.contains(repeat.variable())) {
                design.add(new MappingProblem(
                        path, "", fillId, "expression", "$" + repeat.variable() + " is not known here"));
            }
        } catch (IllegalArgumentException e) {
            design.add(new MappingProblem(path, "", fillId, "expression", e.getMessage()));
        }
    }

    /** Writes the element; an optional one without any content is left out again. Returns how often it was written. */
    int write(Writing writing) {
        if (repeat == null) {
            return once(writing, required || picked) ? 1 : 0;
        }
        Scope outer = writing.scope;
        List<List<Node>> chains = repeat.chains(outer);
        for (List<Node> chain : chains) {
            writing.scope = outer.with(as, chain.get(chain.size() - 1));
            once(writing, true);
        }
        writing.scope = outer;
        if (writing.values != null) {
            writing.values.putIfAbsent(path, new Computed(chains.size() + "×", null));
        }
        if (chains.isEmpty() && required) {
            problem(writing, "", "required", "is required and nothing repeats here");
        }
        return chains.size();
    }

    private boolean once(Writing writing, boolean must) {
        int mark = writing.out.length();
        int problemMark = writing.problems.size();
        writing.out.raw(open);
        boolean content = false;
        for (int i = 0; i < attributes.size(); i++) {
            content |= attributes.get(i).attribute(writing);
        }
        int afterTag = writing.out.length();
        if (source != null || fixed != null || leaf && children.isEmpty()) {
            String value = value(writing, must);
            if (value == null && !content && !must && !(sendEmpty && source != null)) {
                undo(writing, mark, problemMark);
                return false;
            }
            if (value == null && must && nillable && writing.problems.size() == problemMark) {
                writing.out.raw(NIL);
                return true;
            }
            writing.out.raw(END);
            writing.out.text(value == null ? "" : value, false);
            writing.out.raw(close);
            return true;
        }
        writing.out.raw(END);
        int start = writing.out.length();
        int items = 0;
        int[] written = choices.isEmpty() ? null : new int[choices.size()];
        for (int i = 0; i < children.size(); i++) {
            PlanElement child = children.get(i);
            int times = child.write(writing);
            items += times;
            content |= times > 0 && child.carriesData();
            if (times > 0 && written != null && child.branch != null) {
                choose(writing, written, child);
            }
        }
        if (!content && !must) {
            undo(writing, mark, problemMark);
            return false;
        }
        if (written != null) {
            chosen(writing, written);
        }
        if (writing.out.length() == start) {
            writing.out.back(afterTag);
            writing.out.raw(END_EMPTY);
        } else {
            writing.out.raw(close);
        }
        if (array != null) {
            writing.out.insert(afterTag, bytes(new String(array, StandardCharsets.UTF_8) + items + "]\""));
        }
        return true;
    }

    private void choose(Writing writing, int[] written, PlanElement child) {
        for (int i = 0; i < written.length; i++) {
            SheetField.Choice choice = choices.get(i);
            if (choice.group() == child.branch.group()) {
                boolean other = written[i] != 0 && written[i] != child.branch.branch();
                if (other && !choice.repeats()) {
                    writing.problems.add(new MappingProblem(
                            child.path,
                            "",
                            child.fillId,
                            "choice",
                            "has a value beside another branch of its choice; only one of them may be sent"));
                }
                written[i] = child.branch.branch();
            }
        }
    }

    private void chosen(Writing writing, int[] written) {
        for (int i = 0; i < written.length; i++) {
            if (written[i] == 0 && choices.get(i).required()) {
                problem(writing, "", "choice", "needs one branch of its choice, and the record has a value for none");
            }
        }
    }

    /** A child that is there only because the schema requires it does not keep its optional parent alive. */
    private boolean carriesData() {
        return source != null || repeat != null || picked || children.stream().anyMatch(PlanElement::carriesData);
    }

    private void undo(Writing writing, int mark, int problemMark) {
        writing.out.back(mark);
        for (int i = writing.problems.size() - 1; i >= problemMark; i--) {
            String code = writing.problems.get(i).code();
            if (code.equals("required") || code.equals("empty") || code.equals("choice")) {
                writing.problems.remove(i);
            }
        }
    }

    private boolean attribute(Writing writing) {
        int mark = writing.out.length();
        writing.out.raw(open);
        String value = value(writing, required);
        if (value == null) {
            writing.out.back(mark);
            return false;
        }
        writing.out.text(value, true);
        writing.out.raw(close);
        return source != null;
    }

    /** Returns the checked value; null when there is none. What is wrong goes to the problems. */
    private String value(Writing writing, boolean must) {
        if (source == null) {
            if (fixed == null && must && rule != null && !nillable) {
                problem(writing, "", "required", "is required and not filled");
            }
            return fixed;
        }
        String value;
        try {
            value = ValueSource.value(source, conversion, writing.scope);
        } catch (ConversionException e) {
            problem(
                    writing,
                    e.value(),
                    "conversion",
                    e.getMessage().substring(e.value().length() + 3));
            return e.value();
        } catch (ExpressionProblem e) {
            problem(writing, "", "expression", e.getMessage());
            return null;
        }
        if (value == null || value.isEmpty()) {
            if (must && !nillable) {
                problem(writing, "", "empty", "is required and the record has no value for it");
            }
            record(writing, "");
            return null;
        }
        record(writing, value);
        String wrong = rule == null ? null : rule.problem(value);
        if (wrong != null) {
            problem(writing, value, "invalid", wrong);
        } else if (XmlText.firstInvalid(value) >= 0) {
            problem(writing, value, "invalid", "holds a character XML cannot carry");
        }
        return value;
    }

    private void record(Writing writing, String value) {
        if (writing.values != null) {
            writing.values.putIfAbsent(path, new Computed(value, null));
        }
    }

    private void problem(Writing writing, String value, String code, String message) {
        writing.problems.add(new MappingProblem(path, value, fillId, code, message));
    }
}
