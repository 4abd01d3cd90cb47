using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>What a design must be, whoever wrote it.</summary>
public static class RigRules
{
    /// <summary>Notes what is wrong with the name of a zone that is to be added.</summary>
    /// <param name="need">Takes what is wrong, under the field <c>name</c>.</param>
    /// <param name="sensor">The sensor.</param>
    /// <param name="name">The name, trimmed.</param>
    public static void CheckNewZone(Require need, Sensor sensor, string name)
    {
        need.That(RigNames.IsName(name), "name", "A zone's name has letters, digits and single spaces, and starts with a letter.");
        need.That(
            !sensor.Zones.Any(z => z.Equals(name, StringComparison.OrdinalIgnoreCase)),
            "name",
            $"{sensor.Name} already has a zone “{name}”."
        );
        need.That(sensor.Zones.Count < MostZones, "name", $"At most {MostZones} zones.");
    }

    /// <summary>Most controllers, strips and packs.</summary>
    public const int MostControllers = 20;

    /// <summary>Most ports of a controller.</summary>
    public const int MostPorts = 100;

    /// <summary>Most devices.</summary>
    public const int MostDevices = 200;

    /// <summary>Most zones of a sensor.</summary>
    public const int MostZones = 50;

    /// <summary>Checks a design and refuses it with every fault it has.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="at">Path of the design in the request, such as "design".</param>
    /// <exception cref="InputProblem">Names each field that is wrong and what is allowed there.</exception>
    public static void Check(RigDesign rig, string at)
    {
        var need = new Require();
        string P(string path) => at == "" ? path : $"{at}.{path}";
        need.That(
            !string.IsNullOrWhiteSpace(rig.Name) && rig.Name.Trim().Length <= 60,
            P("name"),
            "Give the rig a name of at most 60 characters."
        );
        need.That(rig.Place is null || rig.Place.Length <= 80, P("place"), "At most 80 characters.");
        Controllers(rig, need, P);
        Devices(rig, need, P);
        Mechanisms(rig, need, P);
        Wiring(rig, need, P);
        Starts(rig, need, P);
        if (rig.Power is { } power && need.Holds)
        {
            var names = new HashSet<string>();
            for (var i = 0; i < power.Devices.Count; i++)
            {
                need.That(
                    rig.Find(power.Devices[i]?.Name ?? "") is not null,
                    P($"power.devices[{i}].name"),
                    $"There is no device “{power.Devices[i]?.Name}”."
                );
                need.That(names.Add(power.Devices[i]?.Name ?? ""), P($"power.devices[{i}].name"), "This device has its row already.");
            }
            try
            {
                power.Budget();
            }
            catch (InputProblem p)
            {
                foreach (var (field, say) in p.Errors)
                    need.That(false, P($"power.{field}"), say);
            }
        }
        need.That(rig.Programs.Count <= 20, P("programs"), "At most 20 programs.");
        for (var i = 0; i < rig.Programs.Count; i++)
        {
            var script = rig.Programs[i]?.Script;
            need.That(
                script is { Length: <= MostScript },
                P($"programs[{i}].script"),
                $"Give a script of at most {MostScript} characters."
            );
            // Refused where it enters: what no page could open must not be kept.
            need.That(
                script is null || script.AsSpan().Count('\n') < MostScriptLines,
                P($"programs[{i}].script"),
                $"A script has at most {MostScriptLines} lines; this one has {script?.AsSpan().Count('\n') + 1}: line "
                    + $"{MostScriptLines + 1} is one too many."
            );
            foreach (var mark in rig.Programs[i]?.Marks ?? [])
                need.That(
                    mark is { Owner: not null, Line: not null, Source: not null, Index: >= 0 },
                    P($"programs[{i}].marks"),
                    "Each mark names owner, line, index, kind and source."
                );
        }
        Programs(rig, need, P);
        need.Done();
    }

    /// <summary>Longest script in characters.</summary>
    public const int MostScript = 1_000_000;

    /// <summary>Most lines of a script.</summary>
    public const int MostScriptLines = 20_000;

    /// <summary>Most values that a place gives to a program.</summary>
    public const int MostValues = 20;

    /// <summary>Most walks kept with a rig.</summary>
    public const int MostWalks = 200;

    private static void Programs(RigDesign rig, Require need, Func<string, string> P)
    {
        if (!need.Holds)
            return;
        var running = new Dictionary<string, int>();
        for (var i = 0; i < rig.Programs.Count; i++)
        {
            var p = rig.Programs[i];
            need.That(!p.OnHost || p.RunsOn is null, P($"programs[{i}].runsOn"), "A program on a host is on no controller.");
            need.That(
                p.RunsOn is null || rig.Controllers.Any(c => c.Name == p.RunsOn && c.Role == NodeRole.Controller),
                P($"programs[{i}].runsOn"),
                $"There is no controller “{p.RunsOn}”."
            );
            need.That(p.Values.Count <= MostValues, P($"programs[{i}].values"), $"A place gives at most {MostValues} values.");
            foreach (var value in p.Values.Take(MostValues))
            {
                need.That(RigNames.IsName(value.Name), P($"programs[{i}].values"), $"A value's name has {RigNames.Rule}.");
                need.That(
                    value.Value.Length <= GivenValue.MostCharacters && !value.Value.Any(c => c == '"' || char.IsControl(c)),
                    P($"programs[{i}].values.{value.Name}"),
                    $"A value has at most {GivenValue.MostCharacters} characters and no quotes."
                );
                need.That(
                    value.IsText || value.Value is "yes" or "no" || GivenValue.Amount(value.Value) is not null,
                    P($"programs[{i}].values.{value.Name}"),
                    "A value is a number of at most 15 digits, with its unit if it has one, yes, no or a text."
                );
            }
            if (p.Stored)
                continue;
            var place = p.OnHost ? "host" : rig.PlaceOf(p) ?? "controller";
            need.That(
                running.TryAdd(place, i),
                P($"programs[{i}].stored"),
                $"{(p.OnHost ? "The host" : place)} can run one program at a time: store the other."
            );
        }
        if (rig.MessageDelay is { } delay)
            need.That(delay is { Value: >= 0 and <= 60_000, Unit: "ms" }, P("messageDelay"), "A message takes 0 to 60000 ms.");
        need.That(rig.Walks.Count <= MostWalks, P("walks"), $"At most {MostWalks} walks are kept with a rig.");
        var names = new HashSet<string>();
        for (var i = 0; i < Math.Min(rig.Walks.Count, MostWalks); i++)
        {
            var w = rig.Walks[i];
            need.That(w?.Name is { Length: > 0 and <= 80 }, P($"walks[{i}].name"), "Give the walk a name of 1 to 80 characters.");
            need.That(w?.Name is null || names.Add(w.Name), P($"walks[{i}].name"), $"There already is a walk “{w?.Name}”.");
            need.That(w is null || w.Steps.Count <= 2000, P($"walks[{i}].steps"), "A walk has at most 2000 steps.");
            foreach (var step in w?.Steps ?? [])
                need.That(
                    step is { AfterMs: >= 0 and <= 1e9, Event: null or { Length: > 0 and <= 200 } },
                    P($"walks[{i}].steps"),
                    "A step has an event of 1 to 200 characters or none, and 0 to 1000000000 ms before it."
                );
        }
    }

    private static void Name(Require need, string? name, string path, HashSet<string> taken, string what)
    {
        need.That(
            what is "sensor" or "actuator" or "mechanism" ? RigNames.IsDevice(name) : RigNames.IsName(name),
            path,
            $"Give the {what} a name: {RigNames.Rule}."
        );
        need.That(
            name is null || taken.Add(name.ToLowerInvariant()),
            path,
            $"There already is a “{name}”: two of one name could not be told apart."
        );
    }

    private static void Controllers(RigDesign rig, Require need, Func<string, string> P)
    {
        need.That(rig.Controllers.Count <= MostControllers, P("controllers"), $"At most {MostControllers} controllers.");
        var taken = new HashSet<string>();
        for (var i = 0; i < Math.Min(rig.Controllers.Count, MostControllers); i++)
        {
            var c = rig.Controllers[i];
            var at = P($"controllers[{i}]");
            if (c is null)
            {
                need.That(false, at, "Give a controller.");
                continue;
            }
            Name(need, c.Name, $"{at}.name", taken, "controller");
            need.That(c.Ports.Count is > 0 and <= MostPorts, $"{at}.ports", $"Give 1 to {MostPorts} ports.");
            var ports = new HashSet<string>();
            for (var k = 0; k < Math.Min(c.Ports.Count, MostPorts); k++)
            {
                var p = c.Ports[k];
                var where = $"{at}.ports[{k}]";
                if (p is null)
                {
                    need.That(false, where, "Give a port.");
                    continue;
                }
                need.That(
                    !string.IsNullOrWhiteSpace(p.Name) && p.Name.Length <= 40,
                    $"{where}.name",
                    "Give the port a name of at most 40 characters."
                );
                need.That(
                    p.Name is null || ports.Add(p.Name.ToLowerInvariant()),
                    $"{where}.name",
                    $"{c.Name} already has a port “{p.Name}”."
                );
                need.That(p.Can != PortUse.None, $"{where}.can", "Say what the port can do.");
                need.That((p.KeptFree?.Length ?? 0) <= 80, $"{where}.keptFree", "Say in at most 80 characters why it is kept free.");
                need.Optional(p.MaxInputV, $"{where}.maxInputV", 0, 100, true);
                need.Optional(p.InputHighMinV, $"{where}.inputHighMinV", 0, 100);
                need.Optional(p.OutputHighV, $"{where}.outputHighV", 0, 100, true);
                need.Whole(p.Holds, $"{where}.holds", 1, 200);
            }
        }
    }

    private static void Devices(RigDesign rig, Require need, Func<string, string> P)
    {
        need.That(rig.Sensors.Count + rig.Actuators.Count <= MostDevices, P("sensors"), $"At most {MostDevices} devices.");
        var taken = new HashSet<string>();
        for (var i = 0; i < rig.Sensors.Count; i++)
        {
            var s = rig.Sensors[i];
            var at = P($"sensors[{i}]");
            if (s is null)
            {
                need.That(false, at, "Give a sensor.");
                continue;
            }
            Name(need, s.Name, $"{at}.name", taken, "sensor");
            need.That(Enum.IsDefined(s.Kind), $"{at}.kind", "Must be a kind of sensor.");
            need.Number(s.SamplePeriodMs, $"{at}.samplePeriodMs", 0, 60_000, true);
            if (!Enum.IsDefined(s.Kind))
                continue;
            var facts = s.Facts;
            need.Number(s.Resolution, $"{at}.resolution", 0, facts.To - facts.From);
            need.Number(s.DelayMs, $"{at}.delayMs", 0, 60_000);
            Supply(need, s, at);
            need.Optional(s.SignalV, $"{at}.signalV", 0, 100, true);
            need.Optional(s.ProbeSupplyV, $"{at}.probeSupplyV", 0, 100, true);
            need.Optional(s.ClicksPerTurn, $"{at}.clicksPerTurn", 0, 10_000, true);
            need.Optional(s.SilentReading, $"{at}.silentReading", 0, 1e6);
            need.That(
                s.SilenceIs is null || s.Facts.Signal == SensorSignal.Range && s.Zones.Contains(s.SilenceIs),
                $"{at}.silenceIs",
                $"{s.Name} has no zone “{s.SilenceIs}” that its silence could count as."
            );
            need.That(
                s.On is null || rig.Find(s.On) is not null || rig.Mechanisms.Any(m => m?.Name == s.On),
                $"{at}.on",
                $"There is no actuator or mechanism “{s.On}”."
            );
            if (s.Mount is null)
                need.That(false, $"{at}.mount", "Give a place, or leave it out.");
            else
            {
                Number(need, s.Mount.AheadMm, $"{at}.mount.aheadMm", -10_000, 10_000);
                Number(need, s.Mount.RightMm, $"{at}.mount.rightMm", -10_000, 10_000);
                Number(need, s.Mount.HeightMm, $"{at}.mount.heightMm", 0, 10_000);
                need.Number(s.Mount.TiltDeg, $"{at}.mount.tiltDeg", -90, 90);
            }
            Number(need, s.SpotDiameterMm, $"{at}.spotDiameterMm", 0, 1000, true);
            Number(need, s.BeamHalfAngleDeg, $"{at}.beamHalfAngleDeg", 0, 89.999);
            Number(need, s.BlindMm, $"{at}.blindMm", 0, 10_000);
            Number(need, s.ReachMm, $"{at}.reachMm", 0, 100_000, true);
            if (s is { BlindMm: { } blind, ReachMm: { } reach })
                need.That(blind.Value < reach.Value, $"{at}.reachMm", "Must be beyond the blind zone.");
            need.That(s.Zones.Count <= MostZones, $"{at}.zones", $"At most {MostZones} zones.");
            var zones = new HashSet<string>();
            for (var z = 0; z < Math.Min(s.Zones.Count, MostZones); z++)
                Name(need, s.Zones[z], $"{at}.zones[{z}]", zones, "zone");
            for (var b = 0; b < s.Bands.Count; b++)
            {
                var band = s.Bands[b];
                var where = $"{at}.bands[{b}]";
                if (band is null)
                {
                    need.That(false, where, "Give a band.");
                    continue;
                }
                need.That(s.Zones.Contains(band.Zone), $"{where}.zone", $"There is no zone “{band.Zone}”.");
                need.That(s.Bands.Count(o => o?.Zone == band.Zone) == 1, $"{where}.zone", $"“{band.Zone}” has two bands.");
                need.Number(band.FromMm, $"{where}.fromMm", 0, 100_000);
                need.Number(band.ToMm, $"{where}.toMm", 0, 100_000, true);
                need.That(band.ToMm > band.FromMm, $"{where}.toMm", "Must be farther than where the band begins.");
            }
        }
        for (var i = 0; i < rig.Actuators.Count; i++)
        {
            var a = rig.Actuators[i];
            var at = P($"actuators[{i}]");
            if (a is null)
            {
                need.That(false, at, "Give an actuator.");
                continue;
            }
            Name(need, a.Name, $"{at}.name", taken, "actuator");
            need.That(Enum.IsDefined(a.Kind), $"{at}.kind", "Must be a kind of actuator.");
            Supply(need, a, at);
            need.Optional(a.NeedsHighV, $"{at}.needsHighV", 0, 100, true);
            need.That(
                a.NoticesStall is not true || a.Kind is ActuatorKind.RegulatedMotor or ActuatorKind.PlainMotor or ActuatorKind.Stepper,
                $"{at}.noticesStall",
                "Only a motor can notice that it stalls."
            );
            need.Optional(a.StepsPerTurn, $"{at}.stepsPerTurn", 0, 100_000, true);
            need.Optional(a.MostStepsPerS, $"{at}.mostStepsPerS", 0, 1e6, true);
        }
    }

    private static void Supply(Require need, Device d, string at)
    {
        need.That(Enum.IsDefined(d.Connection), $"{at}.connection", "Must be one cable, pins, or part of the controller.");
        need.Optional(d.SupplyMinV, $"{at}.supplyMinV", 0, 100);
        need.Optional(d.SupplyMaxV, $"{at}.supplyMaxV", 0, 100, true);
        need.That(
            d.SupplyMinV is null || d.SupplyMaxV is null || d.SupplyMinV <= d.SupplyMaxV,
            $"{at}.supplyMinV",
            "Cannot be above what it stands up to."
        );
        need.That(d.Note is null || d.Note.Length <= 400, $"{at}.note", "At most 400 characters.");
    }

    private static void Mechanisms(RigDesign rig, Require need, Func<string, string> P)
    {
        need.That(rig.Mechanisms.Count <= 50, P("mechanisms"), "At most 50 mechanisms.");
        var taken = new HashSet<string>();
        for (var i = 0; i < Math.Min(rig.Mechanisms.Count, 50); i++)
        {
            var m = rig.Mechanisms[i];
            var at = P($"mechanisms[{i}]");
            if (m is null)
            {
                need.That(false, at, "Give a mechanism.");
                continue;
            }
            Name(need, m.Name, $"{at}.name", taken, "mechanism");
            need.That(Enum.IsDefined(m.Kind), $"{at}.kind", "Must be a kind of mechanism.");
            need.That(rig.Sensors.All(s => s?.Name != m.Name), $"{at}.name", $"A sensor is called “{m.Name}” already.");
            for (var k = 0; k < m.Motors.Count; k++)
                need.That(
                    rig.Actuators.Any(a => a?.Name == m.Motors[k] && a.Turns),
                    $"{at}.motors[{k}]",
                    $"There is no motor “{m.Motors[k]}”."
                );
            need.That(
                m.Facts.Going != Going.Steered || m.Motors.Count == 2,
                $"{at}.motors",
                "A two-wheel drive has two motors, the left one first."
            );
            need.That(
                m.Motors.Count >= m.Facts.LeastMotors && m.Motors.Count <= m.Facts.MostMotors,
                $"{at}.motors",
                "Name its motors: 1 to 8."
            );
            Number(need, m.LengthMm, $"{at}.lengthMm", 0, 100_000, true);
            Number(need, m.WheelDiameterMm, $"{at}.wheelDiameterMm", 0, 10_000, true);
            Number(need, m.TrackWidthMm, $"{at}.trackWidthMm", 0, 10_000, true);
            Number(need, m.MotorTurnsPerTurn, $"{at}.motorTurnsPerTurn", 0, 10_000, true);
            Number(need, m.TipAheadMm, $"{at}.tipAheadMm", -10_000, 10_000);
            if (m.Travel is { } t)
            {
                need.That(t.From is not null, $"{at}.travel.from", "Say where travel begins.");
                need.That(t.To is not null, $"{at}.travel.to", "Say where travel ends.");
                Number(need, t.From, $"{at}.travel.from", -1e6, 1e6);
                Number(need, t.To, $"{at}.travel.to", -1e6, 1e6);
                Number(need, t.OverCentre, $"{at}.travel.overCentre", -1e6, 1e6);
                need.That(
                    t.From is null || t.To is null || t.From.Value < t.To.Value,
                    $"{at}.travel.to",
                    "Must be more than where travel begins."
                );
                need.That(
                    t.HomeSensor is null || rig.Sensors.Any(s => s?.Name == t.HomeSensor),
                    $"{at}.travel.homeSensor",
                    $"There is no sensor “{t.HomeSensor}”."
                );
                need.That(
                    (t.Home == HomeEnd.None) == (t.HomeSensor is null),
                    $"{at}.travel.homeSensor",
                    t.Home == HomeEnd.None ? "Say at which end the home sensor is." : "Name the sensor at that end."
                );
            }
            var names = new HashSet<string>();
            for (var k = 0; k < m.Positions.Count; k++)
                Name(need, m.Positions[k], $"{at}.positions[{k}]", names, "position");
            // A direction may be called like a position: "open" is where it goes and which way.
            names = [];
            for (var k = 0; k < m.Directions.Count; k++)
                Name(need, m.Directions[k]?.Name, $"{at}.directions[{k}].name", names, "direction");
            need.That(m.Positions.Count <= 40 && m.Directions.Count <= 10, $"{at}.positions", "At most 40 positions and 10 directions.");
        }
    }

    private static void Wiring(RigDesign rig, Require need, Func<string, string> P)
    {
        need.That(rig.Wires.Count <= 1000, P("wires"), "At most 1000 wires.");
        var leads = new HashSet<(string?, string?)>();
        for (var i = 0; i < Math.Min(rig.Wires.Count, 1000); i++)
        {
            var w = rig.Wires[i];
            var at = P($"wires[{i}]");
            if (w is null)
            {
                need.That(false, at, "Give a wire.");
                continue;
            }
            // A wire to something that is not there is kept: it is what the rig has, and the map says so.
            need.That(
                w is { Device: not null, Lead: not null, Controller: not null, Port: not null },
                at,
                "Name device, lead, controller and port."
            );
            need.That(leads.Add((w.Device, w.Lead)), at, $"The lead “{w.Lead}” of {w.Device} runs to two ports.");
            need.That(w.Colour is null || w.Colour.Length <= 20, $"{at}.colour", "At most 20 characters.");
        }
        need.That(rig.Links.Count <= 200, P("links"), "At most 200 links.");
        for (var i = 0; i < Math.Min(rig.Links.Count, 200); i++)
            need.That(
                rig.Links[i] is { FromController: not null, FromPort: not null, ToController: not null, ToPort: not null },
                P($"links[{i}]"),
                "Name controller and port at both ends."
            );
        for (var i = 0; i < rig.LeadsAtHand.Count; i++)
            need.That(
                rig.LeadsAtHand[i] is { Count: >= 0 and <= 10_000 },
                P($"leadsAtHand[{i}].count"),
                "Must be a whole number from 0 to 10000."
            );
        need.That(rig.LeadsAtHand.Count <= 50, P("leadsAtHand"), "At most 50 types.");
    }

    private static void Starts(RigDesign rig, Require need, Func<string, string> P)
    {
        need.That(rig.Outline.Count is 0 or >= 3 and <= 100, P("outline"), "An outline has 3 to 100 corners.");
        for (var i = 0; i < Math.Min(rig.Outline.Count, 100); i++)
            need.That(
                rig.Outline[i] is { } c && Math.Abs(c.AheadMm) <= 10_000 && Math.Abs(c.RightMm) <= 10_000,
                P($"outline[{i}]"),
                "Each corner lies within 10000 mm."
            );
        need.That(rig.Starts.Count <= 50, P("starts"), "At most 50 placements.");
        for (var i = 0; i < Math.Min(rig.Starts.Count, 50); i++)
        {
            var s = rig.Starts[i];
            var at = P($"starts[{i}]");
            if (s is null)
            {
                need.That(false, at, "Give a placement.");
                continue;
            }
            need.That(!string.IsNullOrWhiteSpace(s.What) && s.What.Length <= 60, $"{at}.what", "Say what is put down.");
            need.That(s.AtMm is not null, $"{at}.atMm", "Say where.");
            Number(need, s.AtMm, $"{at}.atMm", -100_000, 100_000);
            Number(need, s.RightMm, $"{at}.rightMm", -100_000, 100_000);
            Number(need, s.HeadingDeg, $"{at}.headingDeg", -360, 360);
            need.That(s.Side is null || s.Side.Length <= 80, $"{at}.side", "At most 80 characters.");
        }
        if (rig.Rail is not { } rail)
            return;
        need.Number(rail.LengthMm, P("rail.lengthMm"), 0, 1e6, true);
        need.That(!string.IsNullOrWhiteSpace(rail.Ground), P("rail.ground"), "Say what lies between the markers.");
        need.That(rail.Markers.Count <= 200 && rail.Surfaces.Count <= 50, P("rail.markers"), "At most 200 markers and 50 surfaces.");
        var names = new HashSet<string>();
        for (var i = 0; i < Math.Min(rail.Markers.Count, 200); i++)
        {
            var m = rail.Markers[i];
            var at = P($"rail.markers[{i}]");
            if (m is null)
            {
                need.That(false, at, "Give a marker.");
                continue;
            }
            Name(need, m.Name, $"{at}.name", names, "marker");
            need.That(!string.IsNullOrWhiteSpace(m.Surface), $"{at}.surface", "Say what it is painted with.");
            need.Number(m.AtMm, $"{at}.atMm", 0, rail.LengthMm);
            need.That(m.LengthMm is not null, $"{at}.lengthMm", "Say how long it is.");
            Number(need, m.LengthMm, $"{at}.lengthMm", 0, rail.LengthMm, true);
        }
        for (var i = 0; i < Math.Min(rail.Surfaces.Count, 50); i++)
        {
            need.That(
                rail.Surfaces[i] is { Reads: not null } s && !string.IsNullOrWhiteSpace(s.Name),
                P($"rail.surfaces[{i}]"),
                "Give name and reading."
            );
            Number(need, rail.Surfaces[i]?.Reads, P($"rail.surfaces[{i}].reads"), 0, 100);
        }
    }

    /// <summary>Checks a quantity: value and spreads finite, value in range.</summary>
    private static void Number(Require need, Quantity? q, string at, double min, double max, bool aboveMin = false)
    {
        if (q is null)
            return;
        need.Number(q.Value, $"{at}.value", min, max, aboveMin);
        need.That(Enum.IsDefined(q.Kind), $"{at}.kind", "Must be chosen, guessed, calculated or measured.");
        need.That(q.Unit is { Length: <= 20 }, $"{at}.unit", "Give the unit.");
        need.That(q.Source is { Length: <= 200 }, $"{at}.source", "Say where the number comes from, in at most 200 characters.");
        need.Number(q.MeanSd, $"{at}.meanSd", 0, 1e9);
        need.Number(q.MoveSd, $"{at}.moveSd", 0, 1e9);
        need.Number(q.Span, $"{at}.span", 0, 1e9);
        need.That(!double.IsNaN(q.Min) && !double.IsNaN(q.Max) && q.Min <= q.Max, $"{at}.min", "Cannot be above max.");
    }
}
