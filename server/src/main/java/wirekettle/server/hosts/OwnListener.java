package wirekettle.server.hosts;

/** What answers on this machine for the product itself: it may always be reached. */
public interface OwnListener {
    /** Tells whether it listens at a host and port. */
    boolean listensAt(String host, int port);
}
