package wirekettle.core.request;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;

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

    FillPlan(
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
        return compile(contract, message, version, fills, known, MappingContext.of(expressions));
    }

    /** Compiles the fills of a message with everything they may use. */
    public static FillPlan compile(
            Contract contract,
            Message message,
            SoapVersion version,
            List<Fill> fills,
            Set<String> known,
            MappingContext context) {
        return new PlanCompiler(contract, version, fills, known, context).compile(message);
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
        return writing.told();
    }

    /** Returns the elements that do not depend on each other: none is there because of another. */
    public List<PlanElement> parts() {
        List<PlanElement> found = new ArrayList<>();
        headers.forEach(element -> element.parts(found));
        body.forEach(element -> element.parts(found));
        return found;
    }

    /**
     * The value of one field for one record.
     *
     * @param value the text, empty when there is none
     * @param problem what is wrong with it, or null
     */
    public record Computed(String value, MappingProblem problem) {}

    /** One pass over the plan. */
    public static final class Writing {
        ByteOut out;
        final List<MappingProblem> problems = new ArrayList<>();
        final Map<String, Computed> values;
        Scope scope;
        /** How many values came from the record so far. */
        int data;
        /** How many constants were written so far. */
        int constants;

        public Writing(Scope scope, ByteOut out, Map<String, Computed> values) {
            this.scope = scope;
            this.out = out;
            this.values = values;
        }

        /** Returns the values with what is wrong with them. */
        public Map<String, Computed> told() {
            for (MappingProblem problem : problems) {
                Computed before = values.get(problem.field());
                if (before == null || before.problem() == null) {
                    String value = before == null || before.value().isEmpty() ? problem.value() : before.value();
                    values.put(problem.field(), new Computed(value, problem));
                }
            }
            return values;
        }

        void all(FillPlan plan) {
            out.raw(plan.open);
            plan.headers.forEach(element -> element.write(this));
            out.raw(plan.between);
            plan.body.forEach(element -> element.write(this));
            out.raw(plan.close);
        }
    }
}
