package wirekettle.connect.queue;

import jakarta.jms.Connection;
import jakarta.jms.JMSException;

/** Closes what may be broken already. */
final class Closing {
    private Closing() {}

    static void quietly(Connection connection) {
        try {
            connection.close();
        } catch (JMSException | RuntimeException e) {
            // it was gone: nothing is left to close
        }
    }
}
