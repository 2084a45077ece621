package wirekettle.core.flow;

/**
 * How a port is reached in one environment.
 *
 * @param name the endpoint's name
 * @param address the address called
 */
public record EndpointSpec(String name, String address) {}
