package wirekettle.connect;

import java.io.IOException;
import java.io.InputStream;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.soap.MemoryBudget;

/** Reads an answer's body into memory up to a size; a long one asks for room before it is read on. */
final class AnswerBody {
    /** Bodies up to this size take what room they need. */
    static final int SHORT = 256 << 10;

    /** A body in memory is read into a tree, shown and kept: so many times its size. */
    static final int TIMES = 6;

    private AnswerBody() {}

    /** A body larger than it may be. */
    static final class TooLarge extends IOException {}

    /** A body no room could be had for. */
    static final class NoRoom extends IOException {
        NoRoom(MemoryBudget.Full why) {
            super(why.getMessage());
        }
    }

    /**
     * Returns the whole body.
     *
     * @param said the length the answer says it has, negative when it says none
     * @param most the largest body, in bytes
     * @param memory where room is asked for, null for none
     * @param until how long to wait for room, in the time of {@link System#nanoTime()}
     */
    static byte[] read(InputStream in, long said, long most, MemoryBudget.Share memory, long until)
            throws IOException, InterruptedException {
        if (said > most) {
            throw new TooLarge();
        }
        // kept in pieces and put together once: a buffer that grows would need twice the memory
        List<byte[]> pieces = new ArrayList<>();
        int size = 0;
        int next = said >= 0 && said < SHORT ? (int) said + 1 : 8 << 10;
        boolean asked = memory == null;
        while (true) {
            byte[] piece = in.readNBytes(next);
            size += piece.length;
            if (size > most) {
                throw new TooLarge();
            }
            pieces.add(piece);
            if (piece.length < next) {
                return whole(pieces, size);
            }
            if (!asked && size + (long) next > SHORT) {
                asked = true;
                room(memory, (said >= 0 ? said : most) * TIMES, until);
            }
            next = Math.min(Math.max(next * 2, 16 << 10), 1 << 20);
        }
    }

    private static void room(MemoryBudget.Share memory, long bytes, long until) throws NoRoom, InterruptedException {
        try {
            memory.grow(bytes, until);
        } catch (MemoryBudget.Full e) {
            throw new NoRoom(e);
        }
    }

    private static byte[] whole(List<byte[]> pieces, int size) {
        if (pieces.size() == 1) {
            return pieces.get(0);
        }
        byte[] whole = new byte[size];
        int at = 0;
        for (int i = 0; i < pieces.size(); i++) {
            System.arraycopy(pieces.get(i), 0, whole, at, pieces.get(i).length);
            at += pieces.get(i).length;
            pieces.set(i, null);
        }
        return whole;
    }
}
