package wirekettle.core.flow.run;

import java.io.IOException;

/** What is run after the last record failed: all records have their end, and it can be tried again alone. */
public final class AfterFailed extends IOException {
    AfterFailed(String message) {
        super(message);
    }
}
