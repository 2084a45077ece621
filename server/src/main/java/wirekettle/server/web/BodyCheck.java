package wirekettle.server.web;

import jakarta.ws.rs.ext.Provider;
import jakarta.ws.rs.ext.ReaderInterceptor;
import jakarta.ws.rs.ext.ReaderInterceptorContext;
import java.io.IOException;
import java.lang.reflect.RecordComponent;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * Refuses a body that is not there, or lacks what its schema says it must have: resources need not look for nulls. What
 * a schema names as required is what the document of the API promises.
 */
@Provider
public class BodyCheck implements ReaderInterceptor {
    private static final int DEEPEST = 8;

    @Override
    public Object aroundReadFrom(ReaderInterceptorContext context) throws IOException {
        Object body = context.proceed();
        if (body == null && context.getType().getName().startsWith("wirekettle.")) {
            throw new Problem(400, "no-body", "The request has no content: send a JSON object.");
        }
        check(body, "", 0);
        return body;
    }

    private static void check(Object value, String path, int depth) {
        if (value == null || depth > DEEPEST) {
            return;
        }
        if (value instanceof String text) {
            if (text.indexOf(0) >= 0) {
                throw new Problem(400, "bad-character", path + " holds the character U+0000, which no text may have.")
                        .with("pointer", path);
            }
        } else if (value instanceof Collection<?> items) {
            int at = 0;
            for (Object item : items) {
                if (item == null) {
                    throw missing(path + "/" + at);
                }
                check(item, path + "/" + at++, depth + 1);
            }
        } else if (value instanceof Map<?, ?> members) {
            members.forEach((name, member) -> check(member, path + "/" + name, depth + 1));
        } else if (value instanceof Record && value.getClass().getName().startsWith("wirekettle.")) {
            members((Record) value, path, depth);
        }
    }

    private static void members(Record value, String path, int depth) {
        Schema schema = value.getClass().getAnnotation(Schema.class);
        List<String> required = schema == null ? List.of() : List.of(schema.requiredProperties());
        for (RecordComponent component : value.getClass().getRecordComponents()) {
            Object member = member(value, component);
            String at = path + "/" + component.getName();
            if (member == null && required.contains(component.getName())) {
                throw missing(at);
            }
            check(member, at, depth + 1);
        }
    }

    private static Object member(Record value, RecordComponent component) {
        try {
            return component.getAccessor().invoke(value);
        } catch (ReflectiveOperationException e) {
            return null; // a member nobody may see from here is its own class's to check
        }
    }

    private static Problem missing(String path) {
        return new Problem(400, "missing", path + " is missing.").with("pointer", path);
    }
}
