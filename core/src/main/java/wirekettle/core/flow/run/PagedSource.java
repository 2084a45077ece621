package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.compile.CompiledBlock;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Node;

/**
 * The records an operation gives, asked for page after page while the run goes on. Pages that came are kept, so that a
 * run that goes on later has the same records, and asks for what is behind them.
 */
public final class PagedSource implements RecordSource {
    /**
     * A page as it is kept.
     *
     * @param rows its records
     * @param after where paging stands behind it
     */
    public record Page(List<Node> rows, Standing after) {}

    /**
     * Where paging stands between two pages.
     *
     * @param count how many pages came
     * @param rows how many rows came with them
     * @param token what the next page is asked with, or null
     * @param over whether there is no other page
     */
    public record Standing(int count, long rows, String token, boolean over) {}

    /** Where pages are kept. Used by one thread. */
    public interface Kept extends AutoCloseable {
        /** Returns the next page of those that are kept, null when there is no other. */
        Page next() throws IOException;

        /** Keeps a page behind the others; durable when it returns. */
        void keep(Page page) throws IOException;

        @Override
        void close() throws IOException;

        /** Nothing is kept: the run cannot go on later. */
        Kept NONE = new Kept() {
            @Override
            public Page next() {
                return null;
            }

            @Override
            public void keep(Page page) {}

            @Override
            public void close() {}
        };
    }

    /** Thrown when a run is stopped while a page is waited for. */
    static final class ReadStopped extends IOException {
        ReadStopped() {
            super("the run was stopped while it waited for a page");
        }
    }

    private final String name;
    private final Kept kept;
    private final String watermark;
    private final ArrayDeque<Node> rows = new ArrayDeque<>();
    private Asking asking;
    private boolean over;
    private boolean known = true;

    /**
     * Makes a source; nothing is asked before the first record is wanted.
     *
     * @param name what is read
     * @param watermark how far it was read before, or null
     */
    public PagedSource(String name, Kept kept, String watermark) {
        this.name = name;
        this.kept = kept;
        this.watermark = watermark;
    }

    /** Lets pages be asked for. */
    void asks(CompiledFlow flow, Doors doors, RunNames names, Stop stop) {
        asking = new Asking(flow, doors, names, stop);
    }

    /** Takes what was made before the first record. */
    void base(Map<String, Node> made) {
        asking.made = made;
    }

    @Override
    public Item next() throws IOException {
        while (rows.isEmpty() && !over) {
            Page page = known ? kept.next() : null;
            if (page == null) {
                known = false;
                page = asking.page();
                kept.keep(page);
            } else {
                asking.pages.at(page.after());
            }
            rows.addAll(page.rows());
            over = page.after().over();
        }
        return rows.isEmpty() ? null : new Item(rows.poll(), null);
    }

    /** Asks for pages by the steps of the flow. */
    private final class Asking {
        private final Doors doors;
        private final RunNames names;
        private final ReadStage.FromOperation from;
        private final CompiledCall call;
        private final Pages pages;
        private final Steps steps;
        private final Step step;
        private Map<String, Node> made = Map.of();

        Asking(CompiledFlow flow, Doors doors, RunNames names, Stop stop) {
            this.doors = doors;
            this.names = names;
            this.from = flow.source().stage().from();
            this.call = flow.source().from();
            this.pages = new Pages(call.pages(), call.id());
            this.steps = new Steps(flow, doors, Steps.Claims.NONE, stop, Steps.Watch.NONE);
            this.step =
                    steps.block(new CompiledBlock(List.of(call), call.frame().after()));
        }

        Page page() throws IOException {
            List<Node> its = new ArrayList<>();
            boolean[] came = new boolean[1];
            try (MemoryBudget.Share memory = doors.memory().share()) {
                memory.goFirst();
                var item = SourceScope.item(doors, names, made, from, watermark, new CallRoom(null, memory));
                item.paging().asks(call.id(), pages);
                item.paging().reads(page -> {
                    its.addAll(page);
                    came[0] = true;
                });
                step.run(item);
            } catch (Failed e) {
                throw new IOException(
                        "the records cannot be read: " + e.failure().message());
            } catch (Stopped e) {
                throw new ReadStopped();
            }
            if (!came[0]) {
                throw new IOException("the records cannot be read: the failure lane of "
                        + from.call().operation() + " goes on without a page; it can only try again");
            }
            return new Page(List.copyOf(its), pages.standing());
        }
    }

    @Override
    public long size() {
        return -1;
    }

    @Override
    public String name() {
        return name;
    }

    @Override
    public void close() throws IOException {
        kept.close();
    }
}
