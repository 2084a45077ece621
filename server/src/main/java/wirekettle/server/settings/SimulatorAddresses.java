package wirekettle.server.settings;

/** Where the simulators of this server answer. */
public interface SimulatorAddresses {
    /** Returns the address of a simulator. */
    String address(long id);

    /** Tells whether simulators answer at an address, by whatever name of this machine. */
    boolean answersAt(String address);
}
