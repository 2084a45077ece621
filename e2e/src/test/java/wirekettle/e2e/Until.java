package wirekettle.e2e;

import java.util.function.BooleanSupplier;

/** Waits for what comes by itself. */
final class Until {
    private Until() {}

    static void until(String what, BooleanSupplier condition) {
        long end = System.nanoTime() + 90_000_000_000L;
        while (!condition.getAsBoolean()) {
            if (System.nanoTime() > end) {
                throw new AssertionError("waited in vain until " + what);
            }
            Thread.onSpinWait();
            try {
                Thread.sleep(50);
            } catch (InterruptedException e) {
                throw new AssertionError(e);
            }
        }
    }
}
