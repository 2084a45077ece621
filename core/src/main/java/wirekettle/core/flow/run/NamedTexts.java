package wirekettle.core.flow.run;

import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.fill.ValueSource;
import wirekettle.core.soap.FailureClass;

/** Texts beside what a stage makes. */
final class NamedTexts {
    private NamedTexts() {}

    /**
     * Returns a text for a record, empty where it gives none.
     *
     * @param cause the cause of the failure when it cannot be told
     */
    static String of(ValueSource source, Item item, String cause, String stage) throws Failed {
        try {
            String raw = source.raw(item.scope());
            return raw == null ? "" : raw.strip();
        } catch (ExpressionProblem e) {
            throw new Failed(Failure.of(FailureClass.MAPPING, cause, e.getMessage(), stage));
        }
    }
}
