package wirekettle.core.flow.run;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.function.LongPredicate;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/**
 * A batch as its claims keep it, under the record that leads it: the records as they stood in it, so that it is taken
 * up again exactly.
 *
 * @param stage the Batch
 * @param path where in the leading record it is
 * @param node the records as they stood in it
 * @param members the records, in their order
 */
record KeptBatch(String stage, String path, Node node, List<Member> members) {
    /**
     * A record of it.
     *
     * @param made what it had made before: {@link Replay#text}
     */
    record Member(long ordinal, String fingerprint, String made) {}

    /** Returns the place of a record in it, from 0; -1 for one that was not in it. */
    int place(long ordinal) {
        for (int i = 0; i < members.size(); i++) {
            if (members.get(i).ordinal() == ordinal) {
                return i;
            }
        }
        return -1;
    }

    void write(ObjectNode into) {
        into.put("stage", stage).put("node", KeptNode.write(node));
        ArrayNode all = into.putArray("members");
        for (Member member : members) {
            all.addObject()
                    .put("ordinal", member.ordinal())
                    .put("fingerprint", member.fingerprint())
                    .put("made", member.made());
        }
    }

    static KeptBatch read(String path, JsonNode from) throws XmlProblem {
        List<Member> members = new ArrayList<>();
        from.path("members")
                .forEach(each -> members.add(new Member(
                        each.path("ordinal").asLong(),
                        each.path("fingerprint").asText(),
                        each.path("made").asText())));
        return new KeptBatch(
                from.path("stage").asText(),
                path,
                KeptNode.read(from.path("node").asText()),
                List.copyOf(members));
    }

    /**
     * Tells the records that are still open of the batches they were in.
     *
     * @param leading what is known of the records that led batches, those that have ended among them
     * @param open the open records, which are added to
     * @param ended tells whether a record has ended
     */
    static void share(Collection<Replay> leading, Map<Long, Past.OpenRecord> open, LongPredicate ended) {
        for (Replay replay : leading) {
            for (KeptBatch batch : replay.led()) {
                if (!replay.knows(batch.path())) {
                    continue; // it was refused, or never left
                }
                Replay.KnownBatch shared = Replay.known(batch, replay);
                for (Member member : batch.members()) {
                    if (ended.test(member.ordinal())) {
                        continue;
                    }
                    Past.OpenRecord known = open.computeIfAbsent(
                            member.ordinal(),
                            ordinal -> new Past.OpenRecord(member.fingerprint(), Replay.of(member.made())));
                    known.replay().addOlder(Replay.of(member.made()));
                    known.replay().wasIn(shared);
                }
            }
        }
    }
}
