package wirekettle.core.contract;

/** Told about an import while it goes on; may throw {@link java.util.concurrent.CancellationException} to end it. */
@FunctionalInterface
public interface ImportProgress {
    /** Nobody is watching. */
    ImportProgress NONE = (document, done) -> {};

    /** The document now read, and how many are done. */
    void reading(String document, int done);
}
