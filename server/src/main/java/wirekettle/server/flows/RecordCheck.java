package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.flow.run.RowIndex;
import wirekettle.core.flow.run.RunNames;
import wirekettle.core.flow.run.SampleWalk;
import wirekettle.core.request.ByteOut;
import wirekettle.core.value.Node;

/** Says what a flow would say of a record as far as it comes without calling anybody. */
@ApplicationScoped
public class RecordCheck {
    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    /**
     * What was found.
     *
     * @param state fine, wrong, or unknown where the flow would have to call somebody first
     * @param message what is wrong
     * @param field the field it is about, null for none
     */
    @Schema(
            name = "RecordVerdict",
            requiredProperties = {"state", "message"})
    public record Verdict(String state, String message, String field) {}

    /** Takes a record to a stage and writes what that would send. */
    public Verdict of(CompiledFlow flow, String environment, long ordinal, Node record, String stage) {
        Doors.Replies none = (call, place, path) -> {
            throw new SampleWalk.NoReply();
        };
        RunNames names = new RunNames("sample", "sample", "", context.values(environment));
        try (RowIndex rows = new RowIndex(flowRecords.lookUps(environment))) {
            Doors doors = Doors.forLooking(none, rows, context.foldersForLooking(), context.clock())
                    .with(context.numbersForLooking(environment));
            SampleWalk walk = SampleWalk.of(flow, doors, names, ordinal, record);
            Scope scope = stage == null ? null : walk.at(stage);
            if (scope == null) {
                return walk.failure() == null
                        ? new Verdict("unknown", "the flow calls somebody before it comes there", null)
                        : new Verdict(
                                "wrong",
                                walk.failure().message(),
                                walk.failure().field());
            }
            return flow.stage(stage) instanceof CompiledCall call && call.request() != null
                    ? written(call, scope)
                    : judged(walk, stage);
        } catch (IOException e) {
            return new Verdict("unknown", "what is looked up cannot be read: " + e.getMessage(), null);
        }
    }

    private static Verdict judged(SampleWalk walk, String stage) {
        var failure = walk.failures().getOrDefault(stage, walk.failure());
        return failure == null
                ? new Verdict("fine", "", null)
                : new Verdict("wrong", failure.message(), failure.field());
    }

    private static Verdict written(CompiledCall call, Scope scope) {
        List<MappingProblem> problems = call.request().write(scope, new ByteOut());
        if (problems.isEmpty()) {
            return new Verdict("fine", "", null);
        }
        MappingProblem first = problems.get(0);
        String more = problems.size() > 1 ? ", and " + (problems.size() - 1) + " more" : "";
        return new Verdict("wrong", first.sentence() + more, first.shortField());
    }

    /** Returns what compiles a flow as a run had it. */
    public CompiledFlow compiled(wirekettle.core.flow.file.FlowFile file, Map<String, Integer> contracts) {
        return context.compile(file, contracts);
    }
}
