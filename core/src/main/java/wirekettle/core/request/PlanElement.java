package wirekettle.core.request;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.CompiledFill;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.Fill.WhenEmpty.Use;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.request.FillPlan.Computed;
import wirekettle.core.request.FillPlan.Writing;
import wirekettle.core.schema.ContentModel;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.soap.attachments.FileMark;
import wirekettle.core.value.Node;
import wirekettle.core.value.XmlText;

/** One element or attribute of a plan: its bytes around the value, where the value comes from, what it may be. */
public final class PlanElement {
    final List<PlanElement> attributes = new ArrayList<>();
    final List<PlanElement> children = new ArrayList<>();
    public final String path;
    private final SheetField field;
    private final boolean attribute;
    private boolean required;
    private final boolean nillable;
    private final String fixed;
    private final ValueRule rule;
    private final boolean leaf;
    private byte[] open;
    private final byte[] close;
    private String fillId;
    private CompiledFill fill;
    private RepeatedNodes repeat;
    private Expressions.Compiled when;
    private PlanElement otherwise;
    private PlanDocument document;
    private boolean picked;
    private boolean alwaysNil;
    private ExpressionProblem broken;
    private String unpicked;
    private final boolean sendEmpty;
    private final List<SheetField.Choice> choices = new ArrayList<>(0);
    private byte[] array;
    private ContentModel model;
    private ChildRules rules;
    private boolean varies;
    private Fill own;

    PlanElement(String path, String tag, String endTag, SheetField field, boolean sendEmpty) {
        this.sendEmpty = sendEmpty;
        this.field = field;
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
        if (otherwise != null) {
            otherwise.declare(namespaces);
        }
    }

    /** All children and choices are there; {@code filled} is the fill of the element itself, or null. */
    void complete(Fill filled) {
        own = filled;
        boolean constant = filled != null && filled.constant() != null;
        varies = repeat != null
                || fill != null && !constant
                || document != null && document.varies()
                || children.stream().anyMatch(PlanElement::varies)
                || attributes.stream().anyMatch(PlanElement::varies);
        rules = ChildRules.of(choices, children, model);
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
    void array(String attributeStart) {
        array = bytes(" " + attributeStart + "[");
    }

    /** The element's value comes from a fill. */
    void fill(String id, CompiledFill from) {
        fillId = id;
        fill = from;
    }

    /** The element cannot be written as it is: something has to be picked for it, or put into it. */
    void unpicked(String why) {
        unpicked = why;
    }

    /** What the children have to be together. */
    void model(ContentModel content) {
        model = content;
    }

    /** The element is always nil. */
    void nil(String id) {
        fillId = id;
        alwaysNil = true;
        picked = true;
    }

    /** The element is written once for each of some nodes. */
    void repeat(String id, RepeatedNodes nodes) {
        fillId = id;
        repeat = nodes;
    }

    /** The element is written only for some records, another in its place for the others; that may be null. */
    void when(Expressions.Compiled condition) {
        when = condition;
    }

    void otherwise(PlanElement other) {
        if (otherwise == null) {
            otherwise = other;
        } else {
            otherwise.otherwise(other);
        }
    }

    /** The element's value is a document. */
    void document(PlanDocument inside) {
        document = inside;
    }

    /** The fill cannot work: every record fails with the reason. */
    void broken(String id, ExpressionProblem why) {
        fillId = id;
        broken = why;
        picked = true;
    }

    /** Tells whether a field picked for the same place is written where this one is not. */
    boolean alternativeTo(SheetField other) {
        return field.declaredField() == other.declaredField()
                && field.occurrence() == other.occurrence()
                && !field.path().equals(other.path());
    }

    /** Tells whether anything at or below it comes from the record. */
    boolean varies() {
        return varies || otherwise != null && otherwise.varies();
    }

    /** It is left out when it has no content, whatever the schema it comes from says of it alone. */
    void optional() {
        required = false;
    }

    /** Writes it wanted or not: a document its field needs. */
    boolean write(Writing writing, boolean must) {
        return must && when == null && repeat == null ? once(writing, true) : write(writing) > 0;
    }

    /** Tells whether it is written for some records only. */
    boolean conditional() {
        return when != null;
    }

    /** Tells whether it may be written on its own: nothing beside it depends on whether it is there. */
    boolean alone() {
        return field.choice() == null && otherwise == null && when == null;
    }

    /** Tells whether it is only there to hold its children: it is always written, once. */
    boolean plainBranch() {
        return required
                && fill == null
                && repeat == null
                && when == null
                && otherwise == null
                && document == null
                && !alwaysNil
                && broken == null
                && unpicked == null
                && model == null
                && choices.isEmpty()
                && attributes.isEmpty()
                && array == null
                && !children.isEmpty()
                && children.stream().allMatch(child -> child.alone() && child.counted() == null);
    }

    /** Adds the parts of the message at or below this element that do not depend on each other. */
    void parts(List<PlanElement> into) {
        if (plainBranch()) {
            children.forEach(child -> child.parts(into));
        } else {
            into.add(this);
        }
    }

    /** Adds the fills at and below this element. */
    public void collect(List<Fill> into) {
        if (own != null) {
            into.add(own);
        }
        attributes.forEach(each -> each.collect(into));
        children.forEach(each -> each.collect(into));
        if (otherwise != null) {
            otherwise.collect(into);
        }
        if (document != null) {
            document.collect(into);
        }
    }

    /** Writes the element; an optional one without any content is left out again. Returns how often it was written. */
    public int write(Writing writing) {
        if (broken != null) {
            problem(writing, "", "expression", broken.getMessage());
        }
        if (when != null && !applies(writing)) {
            return otherwise == null ? missing(writing) : otherwise.write(writing);
        }
        if (repeat == null) {
            return once(writing, required || picked) ? 1 : 0;
        }
        Scope outer = writing.scope;
        List<Node> nodes;
        try {
            nodes = repeat.nodes(outer);
        } catch (FillFailure e) {
            writing.problems.add(e.of(path, fillId));
            return 0;
        }
        int written = 0;
        for (int i = 0; i < nodes.size(); i++) {
            writing.scope = repeat.scope(outer, nodes.get(i));
            // a value of its own that is empty leaves the element out as it would where it does not repeat
            written += once(writing, fill == null || required) ? 1 : 0;
        }
        writing.data += written;
        writing.scope = outer;
        if (writing.values != null) {
            writing.values.putIfAbsent(path, new Computed(nodes.size() + "×", null));
        }
        if (nodes.isEmpty() && required) {
            problem(writing, "", "required", "is required and nothing repeats here");
        }
        return written;
    }

    private boolean applies(Writing writing) {
        try {
            return when.test(writing.scope);
        } catch (ExpressionProblem e) {
            problem(writing, "", "expression", "its condition: " + e.getMessage());
            return false;
        }
    }

    /** Nothing is written because no condition is true for the record. */
    private int missing(Writing writing) {
        if (required) {
            problem(writing, "", "required", "is required and its condition is not true for this record");
        }
        record(writing, "");
        return 0;
    }

    private boolean once(Writing writing, boolean must) {
        int mark = writing.out.length();
        int problemMark = writing.problems.size();
        if (unpicked != null) {
            problem(writing, "", "pick", unpicked);
        }
        writing.out.raw(open);
        int data = writing.data;
        int constants = writing.constants;
        for (int i = 0; i < attributes.size(); i++) {
            attributes.get(i).attribute(writing);
        }
        int afterTag = writing.out.length();
        if (alwaysNil) {
            writing.data++;
            record(writing, "nil");
            writing.out.raw(NIL);
            return true;
        }
        if (fill != null || document != null || fixed != null || leaf && children.isEmpty()) {
            return text(writing, must, mark, problemMark, data, constants);
        }
        writing.out.raw(END);
        int start = writing.out.length();
        int items = 0;
        ChildRules.Tally tally = rules == null ? null : rules.start(writing);
        for (int i = 0; i < children.size(); i++) {
            PlanElement child = children.get(i);
            int times = child.write(writing);
            items += times;
            if (tally != null) {
                tally.child(writing, i, times);
            }
        }
        boolean content = content(writing, data, constants);
        if (!must && !content) {
            undo(writing, mark, problemMark);
            return false;
        }
        if (nillable && !content && !picked && repeat == null && array == null) {
            // a structure that may be nil and has nothing to hold is nil, whatever it would have to hold otherwise
            undo(writing, afterTag, problemMark);
            writing.out.raw(NIL);
            return true;
        }
        if (picked) {
            writing.data++;
        }
        if (tally != null) {
            tally.done(writing, this);
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

    /** Tells whether anything of the record came into the element; where only constants could, they count. */
    private boolean content(Writing writing, int data, int constants) {
        return writing.data > data || !varies && writing.constants > constants;
    }

    private boolean text(Writing writing, boolean must, int start, int problemMark, int data, int constants) {
        if (document != null) {
            boolean written = document.text(writing, must, END, close);
            if (!written) {
                undo(writing, start, problemMark);
            }
            return written;
        }
        String value = value(writing, must);
        FileMark mark = fill != null && fill.sendsFile() && value != null ? mark(writing, value) : null;
        Use how = fill == null ? null : fill.whenEmpty();
        boolean nil = value == null && how == Use.NIL;
        boolean emptyFits = rule == null || rule.problem("") == null;
        boolean send =
                value == null && fill != null && (how == Use.SEND || sendEmpty && how == null && (emptyFits || must));
        if (nil || send) {
            writing.data++;
        }
        if (!must && !content(writing, data, constants)) {
            undo(writing, start, problemMark);
            return false;
        }
        boolean clean = writing.problems.size() == problemMark;
        if (nil || value == null && nillable && clean && (must && !send || !emptyFits)) {
            writing.out.raw(NIL);
            return true;
        }
        if (value == null && mark == null && clean && !emptyFits) {
            String why = send ? "cannot be sent empty" : "stands in the message for its attributes and has no value";
            problem(writing, "", "invalid", why + ": an empty text is " + rule.problem(""));
        }
        writing.out.raw(END);
        if (mark != null) {
            writing.out.raw(mark.text());
        } else {
            writing.out.text(value == null ? "" : value, false);
        }
        writing.out.raw(close);
        return true;
    }

    /** Returns what stands for the file a value names, null when there is none; then the problems say why. */
    private FileMark mark(Writing writing, String value) {
        try {
            FileMark mark = fill.mark(value, writing.scope);
            int most = rule == null ? -1 : rule.maxLength();
            if (most >= 0 && mark.bytes() > most) {
                problem(writing, value, "invalid", "is " + mark.bytes() + " bytes long, at most " + most + " fit");
            } else if (rule != null && mark.bytes() < rule.minLength()) {
                String least = "at least " + rule.minLength() + " are needed";
                problem(writing, value, "invalid", "is " + mark.bytes() + " bytes long, " + least);
            }
            return mark;
        } catch (FillFailure e) {
            writing.problems.add(e.of(path, fillId));
            return null;
        }
    }

    /** Returns the declared field whose occurrences have to be counted, null when that cannot go wrong. */
    SheetField counted() {
        SheetField declared = field.declaredField();
        boolean bounded = declared.max() > 0 || declared.min() > 1;
        return repeat != null && bounded ? declared : null;
    }

    SheetField field() {
        return field;
    }

    private void undo(Writing writing, int mark, int problemMark) {
        writing.out.back(mark);
        for (int i = writing.problems.size() - 1; i >= problemMark; i--) {
            String code = writing.problems.get(i).code();
            if (List.of("required", "empty", "choice", "pick").contains(code)) {
                writing.problems.remove(i);
            }
        }
    }

    private void attribute(Writing writing) {
        if (when != null && !applies(writing)) {
            missing(writing);
            return;
        }
        int mark = writing.out.length();
        writing.out.raw(open);
        String value = value(writing, required);
        boolean send = fill != null && (fill.whenEmpty() == Use.SEND || sendEmpty && required);
        if (value == null && !send) {
            writing.out.back(mark);
            return;
        }
        if (value == null && rule != null && rule.problem("") != null) {
            problem(writing, "", "invalid", "cannot be sent empty: an empty text is " + rule.problem(""));
        }
        writing.out.text(value == null ? "" : value, true);
        writing.out.raw(close);
    }

    /** Returns the checked value; null when there is none. What is wrong goes to the problems. */
    private String value(Writing writing, boolean must) {
        if (fill == null) {
            if (fixed == null && must && rule != null && !nillable) {
                problem(writing, "", "required", "is required and not filled");
            }
            return fixed;
        }
        String value;
        try {
            value = fill.value(writing.scope);
        } catch (FillFailure e) {
            MappingProblem problem = e.of(path, fillId);
            writing.problems.add(problem);
            writing.data++;
            return problem.value().isEmpty() ? null : problem.value();
        }
        if (value == null || value.isEmpty()) {
            Use how = fill.whenEmpty();
            if (how == Use.REJECT) {
                problem(writing, "", "rejected", "has no value for this record, and its fill says to reject it");
            } else if (how == Use.NIL && !nillable) {
                problem(writing, "", "invalid", "is not nillable, and the record has no value for it");
            } else if (must && !nillable && !(how == Use.SEND && rule != null && rule.problem("") == null)) {
                problem(writing, "", "empty", "is required and the record has no value for it");
            }
            record(writing, "");
            return null;
        }
        if (varies) {
            writing.data++;
        } else {
            writing.constants++;
        }
        record(writing, fill.shown(value));
        String wrong = rule == null || fill.sendsFile() ? null : rule.problem(value);
        if (wrong != null) {
            problem(writing, fill.shown(value), "invalid", wrong);
        } else if (rule != null && rule.prefixed(value)) {
            problem(writing, fill.shown(value), "invalid", "has a prefix no message declares; leave it out");
        } else if (XmlText.firstInvalid(value) >= 0) {
            problem(writing, fill.shown(value), "invalid", "holds a character XML cannot carry");
        }
        return value;
    }

    private void record(Writing writing, String value) {
        if (writing.values != null) {
            writing.values.putIfAbsent(path, new Computed(value, null));
        }
    }

    void problem(Writing writing, String value, String code, String message) {
        writing.problems.add(new MappingProblem(path, value, fillId, code, message));
    }
}
