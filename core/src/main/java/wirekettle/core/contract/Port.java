package wirekettle.core.contract;

import java.util.List;

/**
 * One port of a service.
 *
 * @param name its name
 * @param binding the local name of its binding
 * @param soapVersion the SOAP version, null for a port that does not speak SOAP
 * @param address where the WSDL says it is, empty when it does not
 * @param operations its operations in the order of the binding
 * @param documentation its documentation
 */
public record Port(
        String name,
        String binding,
        SoapVersion soapVersion,
        String address,
        List<Operation> operations,
        String documentation) {}
