package wirekettle.server.signin;

import java.util.List;

/** Where flows run and operations are called; the right to run is given for each. */
public final class Environments {
    /** The environment simulators answer in. */
    public static final String SIMULATOR = "Simulator";

    /** Every environment. */
    public static final List<String> ALL = List.of("Test", "Live", SIMULATOR);

    private Environments() {}
}
