package wirekettle.core.flow.run;

import wirekettle.core.value.Node;

/**
 * The place a record had in a batch.
 *
 * @param stage the Batch
 * @param first the record under which what the batch did is kept
 * @param path where in that record
 * @param position its position, from 1
 * @param of how many records there were
 * @param said what was said of it: {@code accepted}, {@code refused}, {@code in-doubt}; null when nothing was
 * @param verdict what the record went on with when it was accepted, or null
 */
public record BatchPlace(String stage, long first, String path, int position, int of, String said, Node verdict) {
    /** Returns this without a verdict to go on with. */
    BatchPlace withoutVerdict() {
        return new BatchPlace(stage, first, path, position, of, said, null);
    }
}
