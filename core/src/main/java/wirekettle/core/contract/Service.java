package wirekettle.core.contract;

import java.util.List;

/**
 * One service of a contract.
 *
 * @param name its name
 * @param ports its ports
 * @param documentation its documentation
 */
public record Service(String name, List<Port> ports, String documentation) {}
