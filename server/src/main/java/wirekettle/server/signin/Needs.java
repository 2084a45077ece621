package wirekettle.server.signin;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * The right a method of the API needs; {@link Guard} checks it. A method that changes something and
 * names none is refused to everybody; one that only reads needs {@link Right#LOOK}.
 */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface Needs {
    /** Returns the right. */
    Right value();
}
