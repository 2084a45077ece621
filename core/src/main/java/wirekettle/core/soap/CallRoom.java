package wirekettle.core.soap;

import wirekettle.core.soap.attachments.Attachments;

/**
 * Where an answer goes while it is worked on.
 *
 * @param attachments where what comes beside an answer goes as it comes, null to leave it whole in memory
 * @param memory where room for long answers is asked for, null for answers that are let go of at once
 */
public record CallRoom(Attachments attachments, MemoryBudget.Share memory) {
    /** Everything in memory, asked of nobody. */
    public static final CallRoom NONE = new CallRoom(null, null);

    /** Opens a loan of its memory for one call, null where none is asked for. */
    public MemoryBudget.Share loan() {
        return memory == null ? null : memory.loan();
    }

    /** Returns the same with other memory. */
    public CallRoom with(MemoryBudget.Share other) {
        return new CallRoom(attachments, other);
    }
}
