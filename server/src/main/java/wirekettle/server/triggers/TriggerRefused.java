package wirekettle.server.triggers;

/** A trigger was due and could not start its flow. */
public record TriggerRefused(long flow, String environment, String why) {}
