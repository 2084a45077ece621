package wirekettle.core.soap.attachments;

/**
 * One part of a multipart message.
 *
 * @param id its content id without angle brackets, empty when it has none
 * @param type its content type, application/octet-stream when it does not say
 * @param bytes its content, decoded
 */
public record Part(String id, String type, byte[] bytes) {}
