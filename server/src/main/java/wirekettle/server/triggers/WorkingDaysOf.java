package wirekettle.server.triggers;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.time.LocalDate;

/** Tells whether days are worked on. */
@ApplicationScoped
public class WorkingDaysOf {
    @Inject
    WorkingDaysMapper mapper;

    /** Tells whether a day is one of the working days of a name; every day is where none is named, or it is gone. */
    public boolean on(String name, LocalDate day) {
        WorkingDaysMapper.Row row = name == null || name.isBlank() ? null : mapper.byName(name);
        return row == null || Triggers.workingDays(row).on(day);
    }

    /** Tells whether there are working days of a name. */
    public boolean known(String name) {
        return mapper.byName(name) != null;
    }
}
