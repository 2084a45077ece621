/** SOAP 1.1 and 1.2 on the wire: envelopes, replies, faults, and the classes a failed call falls into. */
package wirekettle.core.soap;
