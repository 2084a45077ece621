package wirekettle.server.signin;

/** What a person must be allowed to do. */
public enum Right {
    /** Nothing, not even to have signed in. */
    NONE,
    /** To look at everything but secrets, which nobody sees. */
    LOOK,
    /** To make and change contracts, datasets, flows, simulators, code tables. */
    BUILD,
    /** To call services and start runs, in the environments named with the person. */
    RUN,
    /** To own secrets, endpoints, hosts, connections and people. */
    MANAGE
}
