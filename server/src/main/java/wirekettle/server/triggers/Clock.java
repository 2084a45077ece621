package wirekettle.server.triggers;

import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.time.Duration;
import java.time.Instant;
import java.util.Date;
import org.jboss.logging.Logger;
import org.quartz.DisallowConcurrentExecution;
import org.quartz.Job;
import org.quartz.JobBuilder;
import org.quartz.JobExecutionContext;
import org.quartz.JobKey;
import org.quartz.Scheduler;
import org.quartz.SchedulerException;
import org.quartz.SimpleScheduleBuilder;
import org.quartz.TriggerBuilder;
import org.quartz.TriggerKey;
import wirekettle.server.web.Problem;

/**
 * Wakes triggers at their times. The next time of each is one job in the store that all servers share, so that one of
 * them wakes it; which times there are says {@link wirekettle.core.schedule.Schedule}.
 */
@ApplicationScoped
class Clock {
    private static final Logger LOG = Logger.getLogger(Clock.class);
    private static final String GROUP = "triggers";
    private static final String ID = "trigger";
    private static final String DUE = "due";
    /** Later than this a time was missed. */
    private static final Duration MISSED = Duration.ofMinutes(2);

    private static final int LAST = 9_500;

    @Inject
    Scheduler scheduler;

    @Inject
    TriggerMapper mapper;

    @Inject
    Triggers triggers;

    /** The job of one trigger. */
    @DisallowConcurrentExecution
    public static class Wake implements Job {
        @Inject
        Clock clock;

        @Override
        public void execute(JobExecutionContext context) {
            clock.wake(
                    context.getMergedJobDataMap().getLong(ID),
                    Instant.parse(context.getMergedJobDataMap().getString(DUE)));
        }
    }

    /** Puts into the store what should be there, where it was set up by an earlier version or lost. */
    void begin(@Observes @Priority(LAST) StartupEvent start) {
        for (TriggerMapper.Row row : mapper.active("clock")) {
            try {
                if (!scheduler.checkExists(key(row.id()))) {
                    set(row, Instant.now());
                }
            } catch (SchedulerException | Problem e) {
                LOG.warnf("trigger %d is not set: %s", row.id(), e.getMessage());
            }
        }
    }

    private static JobKey key(long id) {
        return JobKey.jobKey(Long.toString(id), GROUP);
    }

    /** Sets a trigger to its next time after a moment, or takes it out where it is not active. */
    void set(TriggerMapper.Row row, Instant after) {
        Instant due = row != null && row.active() && row.kind().equals("clock")
                ? triggers.schedule(Triggers.spec(row)).next(after)
                : null;
        try {
            if (due == null) {
                scheduler.deleteJob(key(row.id()));
            } else {
                put(row.id(), due);
            }
            mapper.due(row.id(), due);
        } catch (SchedulerException e) {
            throw new IllegalStateException("the clock cannot be set: " + e.getMessage(), e);
        }
    }

    private void put(long id, Instant due) throws SchedulerException {
        scheduler.addJob(
                JobBuilder.newJob(Wake.class)
                        .withIdentity(key(id))
                        .usingJobData(ID, Long.toString(id))
                        .requestRecovery()
                        .storeDurably()
                        .build(),
                true);
        TriggerKey name = TriggerKey.triggerKey(Long.toString(id), GROUP);
        org.quartz.Trigger next = TriggerBuilder.newTrigger()
                .withIdentity(name)
                .forJob(key(id))
                .usingJobData(DUE, due.toString())
                .startAt(Date.from(due))
                .withSchedule(SimpleScheduleBuilder.simpleSchedule().withMisfireHandlingInstructionFireNow())
                .build();
        if (scheduler.checkExists(name)) {
            scheduler.rescheduleJob(name, next);
        } else {
            scheduler.scheduleJob(next);
        }
    }

    /** Takes a trigger out. */
    void remove(long id) {
        try {
            scheduler.deleteJob(key(id));
        } catch (SchedulerException e) {
            throw new IllegalStateException("the clock cannot be set: " + e.getMessage(), e);
        }
    }

    void wake(long id, Instant due) {
        TriggerMapper.Row row = mapper.byId(id);
        if (row == null || !row.active()) {
            return;
        }
        Instant now = Instant.now();
        try {
            if (mapper.takeTime(id, due) > 0) {
                Duration late = Duration.between(due, now);
                if (late.compareTo(MISSED) > 0
                        && !Boolean.TRUE.equals(Triggers.spec(row).missed())) {
                    mapper.event(id, "missed", "it was due at " + due + ", and no server ran", null);
                } else {
                    triggers.start(row, null, false);
                }
            }
        } finally {
            set(row, now.isAfter(due) ? now : due);
        }
    }
}
