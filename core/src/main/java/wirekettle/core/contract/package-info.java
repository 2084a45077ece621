/** WSDL 1.1: reading a service description with all its documents into an immutable contract. */
package wirekettle.core.contract;
