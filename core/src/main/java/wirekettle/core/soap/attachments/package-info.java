/** Binary content beside the envelope: MIME multipart (RFC 2387) and its optimised packaging (XOP 1.0, MTOM). */
package wirekettle.core.soap.attachments;
