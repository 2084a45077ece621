package wirekettle.server.settings;

import wirekettle.server.Database;

/** Endpoints in a database, for tests that call nobody. */
public final class EndpointsOf {
    private EndpointsOf() {}

    /** Returns the endpoints of a database. */
    public static Endpoints a(Database database) {
        Endpoints endpoints = new Endpoints();
        endpoints.settings = database.mapper(SettingsMapper.class);
        return endpoints;
    }
}
