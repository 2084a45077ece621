package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.assist.SampleProof;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.RecordWork;
import wirekettle.core.flow.run.SampleSet;

/** The values of requests for samples, kept from one question of a flow page to the next. */
@ApplicationScoped
class RequestProofs {
    @Inject
    FlowContext context;

    private final Map<String, Proof> proofs = latest(16);

    /**
     * The values of a request for samples.
     *
     * @param of what they were computed of beside the fills
     * @param set the samples
     * @param scopes the scopes of those a message can be made for
     * @param usable the places of these in the set
     * @param values the values
     */
    record Proof(String of, SampleSet set, List<Scope> scopes, List<Integer> usable, SampleProof values) {
        /** Returns how every field fares. */
        Map<String, FieldCoverage> tallies() {
            Map<String, FieldCoverage> tallies = new LinkedHashMap<>();
            values.values().forEach((path, each) -> {
                FieldCoverage tally = new FieldCoverage();
                for (int i = 0; i < each.length; i++) {
                    tally.count(set.numbers().get(usable.get(i)), each[i]);
                }
                tallies.put(path, tally);
            });
            return tallies;
        }
    }

    /** Returns a map that keeps only what was used last. */
    static <V> Map<String, V> latest(int most) {
        return Collections.synchronizedMap(new LinkedHashMap<>(16, 0.75f, true) {
            @Override
            protected boolean removeEldestEntry(Map.Entry<String, V> eldest) {
                return size() > most;
            }
        });
    }

    /** After an edit only what it touches is computed again; anything around the fills makes all of it new. */
    Proof of(long flowId, PreparedFlow flow, RecordWork work, SampleSet set, String samples) {
        if (flow.request() == null) {
            return null;
        }
        Stage.Call call = flow.call();
        String of = String.join(
                "|",
                context.version(flow.read()),
                String.valueOf(samples),
                call.contract() + call.service() + call.port() + call.operation() + call.endpoint(),
                Integer.toString(System.identityHashCode(flow.contract())),
                Integer.toString(call.documents().hashCode()),
                Integer.toString(context.mapping(flow.file()).tables().hashCode()),
                Integer.toString(flow.before().stream()
                        .map(PreparedFlow.Mapped::stage)
                        .toList()
                        .hashCode()));
        String key = flowId + " " + samples;
        Proof before = proofs.get(key);
        Proof now;
        if (before != null && before.of().equals(of)) {
            now = new Proof(
                    of, set, before.scopes(), before.usable(), before.values().edited(flow.request()));
        } else {
            List<Scope> scopes = new ArrayList<>();
            List<Integer> usable = new ArrayList<>();
            for (int i = 0; i < set.records().size(); i++) {
                try {
                    Scope scope = work.scope(set.numbers().get(i), set.records().get(i));
                    scopes.add(RecordWork.mapped(scope, flow.before()));
                    usable.add(i);
                } catch (RecordWork.MapFailed e) {
                    continue; // told of the stage that failed
                }
            }
            now = new Proof(of, set, scopes, usable, SampleProof.of(flow.request(), scopes));
        }
        proofs.put(key, now);
        return now;
    }
}
