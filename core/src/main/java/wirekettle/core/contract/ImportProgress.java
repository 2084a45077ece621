package wirekettle.core.contract;

/** Is notified of an import's progress; may throw {@link java.util.concurrent.CancellationException} to end it. */
@FunctionalInterface
public interface ImportProgress {
    /** Nobody is notified. */
    ImportProgress NONE = (document, done) -> {};

    /** The document now read, and how many are done. */
    void reading(String document, int done);
}
