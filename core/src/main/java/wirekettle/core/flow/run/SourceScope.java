package wirekettle.core.flow.run;

import java.util.Map;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.value.Node;

/** What is in reach where a Read asks an operation for its records: no record is there yet. */
final class SourceScope {
    private SourceScope() {}

    /**
     * Makes the item that asks for records.
     *
     * @param made what was made before the first record
     * @param watermark how far it was read before; the first one is that of the flow
     */
    static Item item(
            Doors doors,
            RunNames names,
            Map<String, Node> made,
            ReadStage.FromOperation from,
            String watermark,
            CallRoom room) {
        String now = doors.clock()
                .instant()
                .truncatedTo(java.time.temporal.ChronoUnit.MILLIS)
                .toString();
        Node run = names.node().add("started", now).add("now", now).done();
        Scope scope = names.scope(doors, run);
        for (Map.Entry<String, Node> each : made.entrySet()) {
            scope = scope.with(each.getKey(), each.getValue());
        }
        String since = watermark == null ? from.since() : watermark;
        if (since != null && !since.isBlank()) {
            String variable = ReadStage.FromOperation.WATERMARK;
            scope = scope.with(variable, Node.leaf(variable, since));
        }
        return new Item(
                OnceWork.BEFORE,
                ReadStage.FromOperation.PATH,
                null,
                "",
                null,
                scope,
                room,
                Replay.starting(now),
                false);
    }
}
