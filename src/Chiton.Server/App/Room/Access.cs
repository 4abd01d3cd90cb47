using System.Collections.Frozen;

namespace Chiton.Server.App.Room;

/// <summary>
/// Who may make which call: the one table of it. What is not named here is nobody's but the desk's, and a test fails. A team's calls
/// about a rig are about its own rigs alone.
/// </summary>
public static class Access
{
    private const Who Educators = Who.Desk | Who.Educator;
    private const Who Teams = Educators | Who.Team;
    private const Who Joined = Teams | Who.Judge;
    private const Who All = Joined | Who.Stranger;

    private static readonly (Who Who, string Calls)[] Rows =
    [
        // Opening and closing the room, letting others in as educators, and what cannot be undone: at the machine itself.
        (
            Who.Desk,
            "openRoom closeRoom makeEducatorCode letJoin deleteClass deleteTeam getRoomAddresses "
                // What stands on the desk's own ports is joined by who stands there.
                + "listLinePorts joinLine leaveLine sayLine"
        ),
        (
            Educators,
            """
            listClasses makeClass getClass renameClass exportClass addTeam changeTeam newTeamCode handOut getRoom sayToAll addMinutes
            getBoard getProjector lowerHand moveTeam sameStart compareTeams
            listCourses makeCourse getCourseSchema importCourse getLessonStuff makeStart getCourse saveCourse addLesson
            listCourseVersions restoreCourse archiveCourse exportCourse
            getClassSkills listClassLessons handOutLesson getChangesToOffer offerChange
            listChallenges makeChallenge getChallengeSchema importChallenge lookAtChallenge getChallenge saveChallenge archiveChallenge
            exportChallenge beginHeats dropHeats withdrawTeam enterRig simulateHeats
            duplicateRig archiveRig plantFault
            showFaults keepRoutine readScxml addScxml forgetRoutine lookAtLogTable importLog
            """
        ),
        (
            Teams,
            """
            getTraining nextExercise answerExercise makeExerciseSheet
            raiseHand getMyLessons getLesson openHint chooseRig handIn mark decideOffer
            createRig freeName
            getRigSchema addCopy nameTeam sayKind
            listRigs getRig listRevisions getPorts runLead getWiring assignPorts getPower
            savePower getCopies getBeside undo redo send getTemplates exportRig
            getDesign saveDesign rename findPosition getPreflight checkPreflight tryPreflight seenPreflight
            startPreflight recordReversed getSense record takeReadings chooseSchool getSenseHistory compareSense
            restoreSense setAside saveBands clearZone addZone stopJob walk getSceneLanguage
            compareFindings getMissions getHelp getLanguage find getMove makeTrial acceptTrials
            leaveOutTrials getTurns getStops judgeAxis workOutPath followLine getProgram saveProgram
            editProgram makeName diagnose getChart getTable getChartDot getScxml getChartMermaid getBoardCode getBoardFiles
            getDifference restoreProgram cure addProgram placeProgram takeOutProgram readChanges placeProgramAlso
            setMessageDelay listWalks keepWalk forgetWalk listPatterns fillPattern listRoutines getScenes
            saveScenes readScene nextInScene moveInScene run getLatestRun exportRun listFindings
            listLooked silenceFinding showFinding getExploration exploreDeeper stopExploring getTries tryBench
            stopTries prove listProofs proveAll compareProofs getLatestProof getSceneProofs getProof
            getDrawnNumber exportProof getTunables tune takeTuned getLog keepLogLines keepLogSeries
            takeBackLogLine getLogHistory exportLog takeNarrowed getLearnt
            getLine startOnLine stopOnLine dropLineRun tellTrial
            getSums
            hub.Follow hub.At hub.Live hub.Play hub.Do hub.Pace hub.StepOn hub.Kept hub.PutAway
            """
        ),
        // What happens in a heat is written down by who judges it; every device shows it.
        (Educators | Who.Judge, "scoreHeat giveRerun takeBackHeat"),
        (Joined, "leaveRoom hub.FollowRoom listHeats getHeats"),
        (All, "getMe join"),
    ];

    private static readonly FrozenDictionary<string, Who> Table = Rows.SelectMany(r =>
            r.Calls.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Select(c => (Call: c, r.Who))
        )
        .ToFrozenDictionary(r => r.Call, r => r.Who);

    /// <summary>Every call that is named, and who may make it.</summary>
    public static IReadOnlyDictionary<string, Who> Calls => Table;

    /// <summary>Who may make a call: an endpoint by its name, a method of the hub as "hub.Follow".</summary>
    public static Who Of(string? call) =>
        call is null ? Who.Desk
        // Bench sums know no rig.
        : call.StartsWith("sum", StringComparison.Ordinal) ? Teams
        : Table.GetValueOrDefault(call, Who.Desk);

    /// <summary>True where a call is named.</summary>
    public static bool Names(string call) => call.StartsWith("sum", StringComparison.Ordinal) || Table.ContainsKey(call);
}
