package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.request.FillPlan.Computed;
import wirekettle.core.request.FillPlan.Writing;
import wirekettle.core.request.PlanElement;

/**
 * The values of a request's fields for sample records. After an edit only the parts of the message it touches are
 * computed again. Immutable.
 */
public final class SampleProof {
    private static final Computed NONE = new Computed("", null);

    /** One part of the message that depends on no other, with its values: one for each sample, null for none. */
    private record Part(List<Fill> fills, Map<String, Computed[]> values) {}

    private final List<Scope> samples;
    private final Map<String, Part> parts = new LinkedHashMap<>();
    private int computed;

    private SampleProof(List<Scope> samples) {
        this.samples = samples;
    }

    /** Computes everything for some samples. */
    public static SampleProof of(FillPlan plan, List<Scope> samples) {
        return new SampleProof(List.copyOf(samples)).computed(plan, Map.of());
    }

    /**
     * Returns the proof of a plan over the same samples; what this plan fills in the same way is not computed again.
     */
    public SampleProof edited(FillPlan plan) {
        return new SampleProof(samples).computed(plan, parts);
    }

    private SampleProof computed(FillPlan plan, Map<String, Part> before) {
        ByteOut out = new ByteOut();
        for (PlanElement element : plan.parts()) {
            List<Fill> fills = new ArrayList<>(1);
            element.collect(fills);
            Part known = before.get(element.path);
            if (known != null && known.fills().equals(fills)) {
                parts.put(element.path, known);
            } else {
                parts.put(element.path, new Part(fills, values(element, out)));
                computed++;
            }
        }
        return this;
    }

    private Map<String, Computed[]> values(PlanElement element, ByteOut out) {
        Map<String, Computed[]> all = new LinkedHashMap<>();
        for (int i = 0; i < samples.size(); i++) {
            out.back(0);
            Writing writing = new Writing(samples.get(i), out, new HashMap<>());
            element.write(writing);
            for (Map.Entry<String, Computed> each : writing.told().entrySet()) {
                all.computeIfAbsent(each.getKey(), path -> new Computed[samples.size()])[i] = each.getValue();
            }
        }
        return all;
    }

    /** Returns how many parts had to be computed. */
    public int computedParts() {
        return computed;
    }

    /** Returns how many samples there are. */
    public int samples() {
        return samples.size();
    }

    /** Returns the values of every field by its path, one for each sample in order; none is the empty text. */
    public Map<String, Computed[]> values() {
        Map<String, Computed[]> all = new LinkedHashMap<>();
        for (Part part : parts.values()) {
            part.values().forEach((path, values) -> {
                Computed[] whole = values.clone();
                for (int i = 0; i < whole.length; i++) {
                    whole[i] = whole[i] == null ? NONE : whole[i];
                }
                all.put(path, whole);
            });
        }
        return all;
    }
}
