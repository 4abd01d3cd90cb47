using System.Text.Json;
using System.Text.Json.Nodes;
using Chiton.Core.Logbook;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Data;

/// <summary>Readings of one zone in a file.</summary>
/// <param name="Zone">Zone or position name.</param>
/// <param name="Readings">Readings in the order taken; three numbers a reading for a sensor of colour.</param>
/// <param name="TimeUtc">When they were taken, UTC; null when not known.</param>
/// <param name="Who">Who took them.</param>
/// <param name="Conditions">Where and in which light.</param>
/// <param name="Mode">Mode of the sensor.</param>
/// <param name="SupplyV">Supply voltage, V.</param>
public sealed record FileRecording(
    string Zone,
    IReadOnlyList<double> Readings,
    DateTime? TimeUtc = null,
    string? Who = null,
    string? Conditions = null,
    string? Mode = null,
    double? SupplyV = null
)
{
    /// <summary>How they came in; null in files from before that was said.</summary>
    public ReadingOrigin? Origin { get; init; }

    /// <summary>When each reading was taken by the clock of its board, µs; null where no clock came with them.</summary>
    public IReadOnlyList<double>? TimesMicros { get; init; }
}

/// <summary>A calibration in a file.</summary>
/// <param name="Sensor">Sensor or mechanism.</param>
/// <param name="School">Where thresholds are put.</param>
/// <param name="CostRatio">Harm of a false rise over harm of a false fall.</param>
/// <param name="MaxFalsePerHour">False switches an hour that are bearable.</param>
/// <param name="Recordings">What it is made of.</param>
/// <param name="SetAside">Readings left out, with their reasons.</param>
public sealed record FileCalibration(
    string Sensor,
    School School,
    double CostRatio,
    double MaxFalsePerHour,
    IReadOnlyList<FileRecording> Recordings,
    IReadOnlyList<SetAsideReading>? SetAside = null
);

/// <summary>A trial in a file.</summary>
/// <param name="Asked">What was asked.</param>
/// <param name="Commanded">What the controller was told.</param>
/// <param name="Measured">What was measured.</param>
/// <param name="TimeUtc">When, UTC; null when not known.</param>
/// <param name="Who">Who made it.</param>
/// <param name="Origin">How it came in.</param>
public sealed record FileTrial(
    double Asked,
    double Commanded,
    double Measured,
    DateTime? TimeUtc = null,
    string? Who = null,
    ReadingOrigin? Origin = null
)
{
    /// <summary>What the board was told over the line, and what it counted; null where no line was there.</summary>
    public string? Told { get; init; }
}

/// <summary>What is known of a motion, in a file.</summary>
/// <param name="Motion">Key of the motion: mechanism and what was tried.</param>
/// <param name="Trials">Its trials in order.</param>
/// <param name="Accepted">The number that was accepted; null for none.</param>
public sealed record FileMotion(string Motion, IReadOnlyList<FileTrial>? Trials, AcceptedNumber? Accepted);

/// <summary>Angles found of a position, in a file.</summary>
/// <param name="Mechanism">Mechanism.</param>
/// <param name="Position">Position.</param>
/// <param name="Angles">Angles found: of a servo deg, of others motor deg.</param>
/// <param name="TimeUtc">When, UTC; null when not known.</param>
/// <param name="Who">Who found them.</param>
/// <param name="Conditions">How.</param>
public sealed record FilePosition(
    string Mechanism,
    string Position,
    IReadOnlyList<double>? Angles,
    DateTime? TimeUtc = null,
    string? Who = null,
    string? Conditions = null
);

/// <summary>A copy in a file.</summary>
/// <param name="Number">Copy number.</param>
/// <param name="Team">Team that works on it.</param>
/// <param name="Motion">How it moves; null while nothing is known.</param>
/// <param name="Calibrations">Current calibrations.</param>
/// <param name="Motions">Trials and accepted numbers.</param>
/// <param name="Positions">Positions found by hand.</param>
public sealed record FileCopy(
    int Number,
    string? Team,
    RailMotion? Motion,
    IReadOnlyList<FileCalibration>? Calibrations,
    IReadOnlyList<FileMotion>? Motions = null,
    IReadOnlyList<FilePosition>? Positions = null
)
{
    /// <summary>Real or a stand-in; null in files from before these were told apart.</summary>
    public UnitKind? Kind { get; init; }

    /// <summary>What the thing on the table, or the stand-in, is called.</summary>
    public string? Unit { get; init; }

    /// <summary>Today's form of a copy: up to version 2 trials and positions stood among the calibrations.</summary>
    /// <param name="design">The design, which knows what is a sensor.</param>
    public FileCopy Today(RigDesign design)
    {
        bool IsMotion(FileCalibration? c) => c?.Sensor?.Contains(": ", StringComparison.Ordinal) == true;
        bool IsMechanism(FileCalibration? c) =>
            c is not null && design.Mechanisms.Any(m => m.Name == c.Sensor) && design.Sensors.All(s => s.Name != c.Sensor);
        if (Calibrations is null || !Calibrations.Any(c => IsMotion(c) || IsMechanism(c)))
            return this;
        IEnumerable<double> Held(FileCalibration c, string zone) =>
            (c.Recordings ?? []).Where(r => r?.Zone == zone).SelectMany(r => r.Readings ?? []);
        return this with
        {
            Calibrations = [.. Calibrations.Where(c => !IsMotion(c) && !IsMechanism(c))],
            Motions =
            [
                .. Motions ?? [],
                .. Calibrations
                    .Where(IsMotion)
                    .Select(c => new FileMotion(
                        c.Sensor,
                        [
                            .. (c.Recordings ?? [])
                                .Where(r => r?.Zone == "trials")
                                .SelectMany(r =>
                                    (r.Readings ?? [])
                                        .Chunk(3)
                                        .Where(t => t.Length == 3)
                                        .Select(t => new FileTrial(t[0], t[1], t[2], r.TimeUtc, r.Who))
                                ),
                        ],
                        Held(c, "accepted").Chunk(AcceptedNumber.Width).LastOrDefault(n => n.Length == AcceptedNumber.Width) is { } packed
                            ? AcceptedNumber.Of(packed)
                            : null
                    )),
            ],
            Positions =
            [
                .. Positions ?? [],
                .. Calibrations
                    .Where(IsMechanism)
                    .SelectMany(c =>
                        (c.Recordings ?? [])
                            .Where(r => r?.Zone is not null)
                            .Select(r => new FilePosition(
                                c.Sensor,
                                r.Zone,
                                [.. (r.Readings ?? []).Where(v => !(c.SetAside ?? []).Any(a => a.Zone == r.Zone && a.Value == v))],
                                r.TimeUtc,
                                r.Who,
                                r.Conditions
                            ))
                    ),
            ],
        };
    }
}

/// <summary>An earlier revision that ran on a table, in a file.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Design">The design as it was then.</param>
/// <param name="TimeUtc">When it was made, UTC; null when not known.</param>
/// <param name="What">What changed in it, in words.</param>
public sealed record FileRevision(int Number, RigDesign? Design, DateTime? TimeUtc = null, string? What = null);

/// <summary>A series of runs in a file.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Copy">The copy that ran.</param>
/// <param name="TimeUtc">When it began, UTC.</param>
/// <param name="Planned">How many runs it was to have; 0 for as many as came.</param>
/// <param name="Scene">The scene; empty for the one that counts.</param>
/// <param name="Light">The light.</param>
/// <param name="Pack">The pack.</param>
/// <param name="Floor">The floor.</param>
/// <param name="Who">Who started the runs.</param>
public sealed record FileSeries(
    string? Key,
    int Copy,
    DateTime TimeUtc,
    int Planned = 0,
    string? Scene = null,
    string? Light = null,
    string? Pack = null,
    string? Floor = null,
    string? Who = null
);

/// <summary>What was sent to a controller, in a file.</summary>
/// <param name="Copy">The copy.</param>
/// <param name="Revision">The revision.</param>
/// <param name="TimeUtc">When, UTC.</param>
public sealed record FileSend(int Copy, int Revision, DateTime TimeUtc);

/// <summary>The log of a rig in a file.</summary>
/// <param name="Revision">Number of the revision that the file's design is.</param>
/// <param name="Earlier">Earlier revisions that ran or were sent.</param>
/// <param name="Series">Series of runs.</param>
/// <param name="Runs">The runs in order.</param>
/// <param name="Sends">What was sent to controllers, in order.</param>
public sealed record FileLog(
    int Revision,
    IReadOnlyList<FileRevision>? Earlier = null,
    IReadOnlyList<FileSeries>? Series = null,
    IReadOnlyList<LogEntry>? Runs = null,
    IReadOnlyList<FileSend>? Sends = null
);

/// <summary>A rig as it is exported and imported. The schema is published at <c>/api/rigs/schema</c>.</summary>
/// <param name="Format">Always "chiton-rig".</param>
/// <param name="Version">Version of the format.</param>
/// <param name="Design">The design.</param>
/// <param name="Copies">Its copies; without any it gets one.</param>
/// <param name="Routines">Routines of the workshop's library that its programs have; those that the other workshop lacks go into its
/// library.</param>
public sealed record RigFile(
    string? Format,
    int? Version,
    RigDesign? Design,
    IReadOnlyList<FileCopy>? Copies,
    IReadOnlyList<KeptRoutine>? Routines = null
)
{
    /// <summary>What <see cref="Format"/> says.</summary>
    public const string FormatName = "chiton-rig";

    /// <summary>The version this program writes; it reads all from 1.</summary>
    public const int CurrentVersion = 3;

    /// <summary>What happened on the table; null for nothing.</summary>
    public FileLog? Log { get; init; }
}

/// <summary>Designs as they are stored, of every version that ever was.</summary>
public static class Designs
{
    /// <summary>Reads a stored design; one of version 1 is turned into today's form.</summary>
    /// <exception cref="JsonException">When it is damaged.</exception>
    public static RigDesign Read(string json) =>
        json.Contains("\"devices\":[{\"kind\"", StringComparison.Ordinal)
        && JsonNode.Parse(json) is JsonObject node
        && node["devices"] is JsonArray
            ? WithScenes(Documents.Read<RigDesign>(Upgrade(node).ToJsonString(Documents.Options)))
            : WithScenes(Documents.Read<RigDesign>(json));

    /// <summary>A design from before there were scenes gets its rail as one; nothing of it is lost.</summary>
    public static RigDesign WithScenes(RigDesign design) =>
        design.Scenes.Count == 0 && design.Rail is not null && design.Vehicle is not null
            ? design with
            {
                Scenes = [SceneStarts.Usual(design)],
            }
            : design;

    // Version 1 knew one rail vehicle, and its devices in one list.
    private static JsonObject Upgrade(JsonObject old)
    {
        var sensors = new JsonArray();
        var actuators = new JsonArray();
        foreach (var d in old["devices"]!.AsArray().OfType<JsonObject>())
        {
            var name = d["name"]!.GetValue<string>();
            switch (d["kind"]!.GetValue<string>())
            {
                case "lightEye":
                    sensors.Add(
                        new JsonObject
                        {
                            ["name"] = name,
                            ["kind"] = "reflectedLight",
                            ["samplePeriodMs"] = d["samplePeriodMs"]!.DeepClone(),
                            ["resolution"] = d["resolution"]!.DeepClone(),
                            ["zones"] = d["zones"]!.DeepClone(),
                            ["lamp"] = "on",
                            ["spotDiameterMm"] = d["spotDiameterMm"]!.DeepClone(),
                            ["mount"] = new JsonObject { ["aheadMm"] = d["aheadMm"]!.DeepClone() },
                            ["signalV"] = d["signalV"]?.DeepClone() ?? 5,
                        }
                    );
                    break;
                case var kind:
                    actuators.Add(new JsonObject { ["name"] = name, ["kind"] = kind });
                    break;
            }
        }
        var vehicle = old["vehicle"]!.AsObject();
        var length = new Quantity(vehicle["lengthMm"]!.GetValue<double>(), "mm", Provenance.Measured, "ruler", 0.5, 0, 0, 1);
        var result = new JsonObject
        {
            ["name"] = old["name"]!.DeepClone(),
            ["place"] = old["place"]!.DeepClone(),
            ["controllers"] = old["controllers"]!.DeepClone(),
            ["sensors"] = sensors,
            ["actuators"] = actuators,
            ["wires"] = old["wires"]?.DeepClone() ?? new JsonArray(),
            ["rail"] = old["rail"]!.DeepClone(),
            ["programs"] = old["programs"]!.DeepClone(),
            ["mechanisms"] = new JsonArray(
                new JsonObject
                {
                    ["name"] = vehicle["name"]!.DeepClone(),
                    ["kind"] = "railVehicle",
                    ["motors"] = new JsonArray(vehicle["motor"]!.DeepClone()),
                    ["lengthMm"] = JsonSerializer.SerializeToNode(length, Documents.Options),
                }
            ),
            ["starts"] = new JsonArray(
                new JsonObject { ["what"] = vehicle["name"]!.DeepClone(), ["atMm"] = old["start"]!["atMm"]!.DeepClone() }
            ),
        };
        if (old["power"] is { } power)
            result["power"] = power.DeepClone();
        return result;
    }
}
