package wirekettle.server.environments;

import wirekettle.server.Database;

/** The environments of a database, for tests of what needs them. */
public final class EnvironmentsOf {
    private EnvironmentsOf() {}

    /** Returns them. */
    public static Environments a(Database database) {
        Environments environments = new Environments();
        environments.mapper = database.mapper(EnvironmentMapper.class);
        return environments;
    }
}
