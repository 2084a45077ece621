package wirekettle.server.flows;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.assist.Fixes;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.SampleWalk;
import wirekettle.core.value.ValueFormat;

/**
 * What the flow page shows for one stage and one sample record.
 *
 * @param problems everything wrong with the flow
 * @param records how many records there are
 * @param record the sample record shown, from 1
 * @param samples how many records coverage was computed over
 * @param sources what is in reach, with the sample's values
 * @param fields values by target path or column
 * @param sends the message for the sample, indented
 * @param rows the rows made for the sample, in column order
 * @param kept the reply kept for the sample, or null
 * @param keptReplies how many samples have a kept reply
 * @param environment the environment asked about
 * @param way how the sample goes through the whole flow, null when there is no sample
 * @param attention every field of the flow with something wrong, over all samples: what counts as its problems
 */
@Schema(
        requiredProperties = {
            "problems",
            "records",
            "record",
            "samples",
            "sources",
            "fields",
            "sends",
            "rows",
            "keptReplies",
            "environment",
            "attention"
        })
public record Preview(
        List<FlowProblem> problems,
        long records,
        long record,
        int samples,
        List<SourceGroup> sources,
        Map<String, FieldValue> fields,
        String sends,
        List<List<String>> rows,
        Kept kept,
        int keptReplies,
        String environment,
        Way way,
        List<Attention> attention) {
    /**
     * How the sample goes through the flow.
     *
     * @param end how it ends, null when it only comes to a call without a reply
     * @param endedAt the stage it ends at, null when it comes to the end
     * @param failure why it fails, or null
     * @param reached the stages it comes to
     * @param ways the numbers of the ways taken, by Branch stage; -1 for none of them
     * @param failures what failed, by stage; a lane may have saved it
     * @param answer what a caller would get, or null
     * @param comesHere where it does not come to the stage that is asked about: the first sample that does, or null
     * @param items how many items it has, by the ids of the Splits it comes to
     * @param batches where it stands in the batches it comes to, by the ids of the Batches
     */
    @Schema(
            name = "SampleWay",
            requiredProperties = {"reached", "ways", "failures", "items", "batches"})
    public record Way(
            End end,
            String endedAt,
            String failure,
            List<String> reached,
            Map<String, Integer> ways,
            Map<String, String> failures,
            Answer answer,
            Long comesHere,
            Map<String, Integer> items,
            Map<String, SampleWalk.Place> batches) {}

    /** A field with something wrong; the field is null where the whole stage has it. */
    @Schema(requiredProperties = {"stage", "message"})
    public record Attention(String stage, String field, String message) {}

    /** A variable in reach with its fields. */
    @Schema(requiredProperties = {"variable", "title", "fields"})
    public record SourceGroup(String variable, String title, List<SourceField> fields) {}

    /** A field in reach with the sample's value. */
    @Schema(requiredProperties = {"wire", "name", "type", "value", "depth", "repeats"})
    public record SourceField(String wire, String name, String type, String value, int depth, boolean repeats) {}

    /** A sample record with a wrong value. */
    @Schema(requiredProperties = {"record", "value", "message"})
    public record Offender(long record, String value, String message) {}

    /** A format that mends samples. */
    @Schema(requiredProperties = {"label", "format", "mends", "of"})
    public record Fix(String label, ValueFormat format, int mends, int of) {
        static Fix of(Fixes.Fix fix) {
            return fix == null ? null : new Fix(fix.label(), fix.format(), fix.mends(), fix.of());
        }
    }

    /** The value of one field: for the sample, and over all samples. */
    @Schema(requiredProperties = {"value", "fine", "empty", "invalid", "offenders"})
    public record FieldValue(
            String value, String problem, int fine, int empty, int invalid, List<Offender> offenders, Fix fix) {
        static FieldValue of(FieldCoverage coverage, String value, String problem, Fix fix) {
            return new FieldValue(
                    value,
                    problem,
                    coverage.fine(),
                    coverage.empty(),
                    coverage.invalid(),
                    coverage.offenders().stream()
                            .map(o -> new Offender(o.record(), o.value(), o.message()))
                            .toList(),
                    fix);
        }
    }

    /** A kept reply. */
    @Schema(requiredProperties = {"request", "status", "millis", "calledAt", "stale"})
    public record Kept(
            String request, int status, String reply, String failure, long millis, Instant calledAt, boolean stale) {}
}
