package wirekettle.core.flow.compile;

import wirekettle.core.flow.file.Stage;

/** Compiles the stages of one verb. */
interface StageCompiler<S extends Stage> {
    /** Compiles a stage; what is wrong is told to {@code at} and never an exception. */
    Compiled compile(S stage, Reach reach, Compilation at);
}
