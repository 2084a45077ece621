package wirekettle.core.flow.run;

import java.io.IOException;
import java.time.Clock;
import java.util.List;
import java.util.function.Consumer;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledLookUp;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.value.Node;

/**
 * What the steps of a flow reach outside: the only difference between a run, a preview and a shell.
 *
 * @param lines the line of every call
 * @param lookUps where rows are looked up
 * @param folders the folders files are sent from and written to
 * @param clock the time
 * @param memory where room for records and long answers is asked for
 * @param trouble receives exceptions of our own code
 * @param numbers where the numbers of series are drawn
 * @param replies what calls gave for samples, null where they are really made
 */
public record Doors(
        Lines lines,
        LookUps lookUps,
        Folders folders,
        Clock clock,
        MemoryBudget memory,
        Consumer<Throwable> trouble,
        Numbers numbers,
        Replies replies) {
    /** Makes doors behind which calls are really made. */
    public Doors(
            Lines lines,
            LookUps lookUps,
            Folders folders,
            Clock clock,
            MemoryBudget memory,
            Consumer<Throwable> trouble) {
        this(lines, lookUps, folders, clock, memory, trouble, Numbers.FIRST, null);
    }

    /** What calls gave for samples: requests need not be ready, and nothing is sent. */
    public interface Replies {
        /**
         * Returns what a call gave for a record, or for the item of it at a path.
         *
         * @throws SampleWalk.NoReply when there is nothing: the sample ends there
         */
        Caller.Result of(CompiledCall call, long ordinal, String path);
    }

    /** Returns doors for looking: nothing is sent, written or asked. */
    public static Doors forLooking(Replies replies, LookUps lookUps, Folders folders, Clock clock) {
        Line nowhere = new Line(null, EndpointReach.plain(""), EndpointGate.open());
        return new Doors(
                call -> nowhere, lookUps, folders, clock, MemoryBudget.NONE, thrown -> {}, Numbers.FIRST, replies);
    }

    /**
     * How a call reaches its endpoint.
     *
     * @param caller calls it
     * @param reach the endpoint's address, secrets and masking
     * @param gate the endpoint's limits, shared by all runs
     */
    public record Line(Caller caller, EndpointReach reach, EndpointGate gate) {}

    /** The line of every call. */
    public interface Lines {
        /** Returns the line of a call; asked once for each call of a flow. */
        Line of(CompiledCall call);
    }

    /** Where rows are looked up. Safe for several threads. */
    public interface LookUps {
        /** Returns the rows that have a key in the stage's column; more than two need not be given. */
        List<Node> rows(CompiledLookUp stage, String key) throws IOException;

        /** Nothing can be looked up. */
        LookUps NONE = (stage, key) -> {
            throw new IOException("nothing can be looked up here");
        };
    }

    /** Returns doors of calls over one line, with nothing else. */
    public static Doors of(Caller caller, EndpointReach reach, Clock clock) {
        Line line = new Line(caller, reach, EndpointGate.open());
        return new Doors(call -> line, LookUps.NONE, reach.folders(), clock, MemoryBudget.NONE, thrown -> {});
    }

    /** Returns these doors with rows to look up. */
    public Doors with(LookUps others) {
        return new Doors(lines, others, folders, clock, memory, trouble, numbers, replies);
    }

    /** Returns these doors with a place to draw numbers from. */
    public Doors with(Numbers others) {
        return new Doors(lines, lookUps, folders, clock, memory, trouble, others, replies);
    }
}
