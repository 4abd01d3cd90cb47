using System.Text;
using System.Text.Json.Nodes;

namespace Chiton.Server.Tests.Parts;

/// <summary>Every sum over HTTP: its worked figures, and every field refusing nonsense by name.</summary>
public class SumFieldTests : IClassFixture<SumTests.Shared>
{
    private readonly Bench bench;

    public SumFieldTests(SumTests.Shared shared) => bench = shared.Bench;

    private const string A = "[21,23,22,24,20,22,23,21,25,22]";
    private const string B = "[58,61,55,63,60,57,59,62,56,60]";

    /// <summary>A body that each sum takes, with a field of its result and what it must be.</summary>
    private static readonly Dictionary<string, (string Body, string Field, double Value, int Digits)> Sums = new()
    {
        ["threshold"] = (
            $$"""{"lists":[{"readings":{{A}}},{"readings":{{B}}}],"resolution":1,"samplePeriodMs":10,"maxFalsePerHour":1,"costRatio":1}""",
            "threshold",
            35.7275,
            4
        ),
        ["zones"] = (
            $$"""{"zones":[{"name":"notch","readings":{{B}}},{"name":"paint","readings":{{A}}}],"resolution":1"""
                + ""","samplePeriodMs":10,"maxFalsePerHour":1}""",
            "boundaries[0].threshold",
            35.7275,
            4
        ),
        ["marker-pass"] = (
            """{"markerLengthMm":48,"spotDiameterMm":8,"samplePeriodMs":10,"readingsNeeded":2,"speedMmPerS":310"""
                + ""","actuatorDelayMs":0,"sensorAheadMm":0}""",
            "clearTimeS",
            0.1806,
            4
        ),
        ["sweep"] = (
            """{"targetWidthMm":70,"rangeMm":280,"beamHalfAngleDeg":12,"samplePeriodMs":30,"readingsNeeded":2"""
                + ""","turnRateDegPerS":45,"sensorAheadMm":0,"actuatorDelayMs":0,"brakingDeg":0}""",
            "visibleArcDeg",
            38.25,
            2
        ),
        ["stop-distance"] = (
            """{"approachSpeedMmPerS":180,"samplePeriodMs":30,"readingsNeeded":2,"actuatorDelayMs":40,"sensorDelayMs":0"""
                + ""","targetGapMm":45,"decelMmPerS2":900,"noiseSdMm":1.5,"blindZoneMm":0,"decelSdPercent":0}""",
            "triggerDistanceMm",
            78.3,
            6
        ),
        ["edge-guard"] = (
            """{"sensorAheadMm":55,"sensorOffsetsMm":[-70,70],"halfTrackMm":60,"approachAngleMaxDeg":60"""
                + ""","speedMmPerS":150,"samplePeriodMs":10,"readingsNeeded":2,"actuatorDelayMs":40,"decelMmPerS2":900"""
                + ""","spotDiameterMm":0,"decelSdPercent":0}""",
            "maxSafeSpeedMmPerS",
            265.24,
            2
        ),
        ["reaction"] = (
            """{"objectSpeedMmPerS":250,"samplePeriodMs":20,"readingsNeeded":3,"actuatorDelayMs":40"""
                + ""","actuatorTravelDeg":90,"actuatorDegPerS":300,"sensorDelayMs":0}""",
            "mustNoticeAtMm",
            100,
            6
        ),
        ["push-over"] = (
            """{"sensorAheadMm":55,"bumperAheadMm":40,"objectRadiusMm":8,"stopDistanceMm":21.5,"stopSpreadMm":0,"marginMm":5}""",
            "extraForwardMaxMm",
            33.5,
            6
        ),
        ["stop-gap"] = (
            """{"approachSpeedMmPerS":250,"samplePeriodMs":30,"readingsNeeded":2,"actuatorDelayMs":40,"triggerMm":50"""
                + ""","sensorDelayMs":0,"decelMmPerS2":900,"noiseSdMm":0,"blindZoneMm":0}""",
            "gapMm",
            -6.0,
            1
        ),
        ["beam-cross"] = (
            """{"speedMmPerS":1500,"lengthMm":60,"beamWidthMm":80,"samplePeriodMs":60,"readingsInARow":1}""",
            "fastestMmPerS",
            2333.3,
            1
        ),
        ["on-off"] = (
            """{"riseRatePerS":2,"fallRatePerS":0.5,"onBelow":40,"offAbove":60,"delayS":3,"samplePeriodS":1}""",
            "switchesPerHour",
            96,
            9
        ),
        ["lift-torque"] = (
            """{"parts":[{"massG":60,"armMm":120},{"massG":40,"armMm":60}],"motorTorqueNmm":180,"motors":1"""
                + ""","motorTurnsPerTurn":1,"efficiencyPercent":100,"share":0.5}""",
            "loadShare",
            0.5230,
            4
        ),
        ["input-scale"] = ("""{"reading":512,"bits":10,"referenceV":5,"toBits":12,"toReferenceV":3.3}""", "toReading", 3105, 9),
        ["wheel-way"] = ("""{"wheelDiameterMm":56,"trackWidthMm":118,"leftWheelDeg":300,"rightWheelDeg":-300}""", "turnDeg", 142.37, 2),
        ["echo"] = ("""{"echoMicros":1750,"airTempC":12}""", "distanceMm", 296.19, 2),
        ["power-budget"] = (
            """{"cells":4,"voltsPerCell":1.5,"capacityMAh":2000,"packMaxMA":1500,"controllerOwnMA":80"""
                + ""","controllerOutputMaxMA":400,"controllerOutputV":5,"devices":[{"name":"pump","count":1,"minV":4,"maxV":9"""
                + ""","idleMA":5,"activeMA":200,"stallMA":600,"duty":0.5,"suppliedBy":"pack"}]}""",
            "packV",
            6,
            9
        ),
        ["signal-level"] = ("""{"outputHighV":5,"inputMaxV":5.5,"inputHighMinV":3}""", "safe", 1, 0),
        ["success-rate"] = ("""{"passes":91,"runs":100,"confidence":0.95}""", "high", 0.9519, 4),
        ["wheel-travel"] = (
            """{"wheelDiameterMm":62.4,"distanceMm":850,"motorTurnsPerWheelTurn":1.5,"motorSpeedDegPerS":400}""",
            "durationS",
            5.8535,
            4
        ),
        ["turn"] = (
            """{"wheelDiameterMm":62.4,"trackWidthMm":118,"turnDeg":60,"style":"arc","arcRadiusMm":200"""
                + ""","motorTurnsPerWheelTurn":1,"motorSpeedDegPerS":300}""",
            "rightWheelDeg",
            271.15,
            2
        ),
        ["drive-fit"] = (
            """{"pairs":[{"commanded":0.62,"measured":74},{"commanded":0.9,"measured":118},{"commanded":1.15"""
                + ""","measured":155}],"target":120,"confidence":0.95}""",
            "residualSd",
            0.9854,
            4
        ),
        ["gear-train"] = (
            """{"stages":[{"driverTeeth":8,"drivenTeeth":24}],"motorSpeedDegPerS":900,"motorTorqueMNm":50,"efficiencyPerStage":0.9}""",
            "outputTorqueMNm",
            135,
            9
        ),
        ["click-encoder"] = (
            """{"clicksPerEncoderTurn":4,"encoderTurnsPerWheelTurn":3,"wheelDiameterMm":43.2,"trackWidthMm":120"""
                + ""","samplePeriodMs":5,"readingsPerLevel":2,"pressedFraction":0.5}""",
            "maxWheelTurnsPerS",
            4.1667,
            4
        ),
        ["axis-travel"] = (
            """{"kind":"screw","leadMm":8,"gearRatio":1,"travelMm":40,"motorSpeedDegPerS":360,"stallFactor":1.5}""",
            "giveUpAfterS",
            7.7,
            9
        ),
        ["load-seat"] = (
            """{"forkLengthMm":90,"seatGapMm":12,"loadDepthMm":60,"heelAheadMm":70,"frictionCoefficient":0.35"""
                + ""","gripExtraMPerS2":0,"loadHeightMm":0,"loadBaseMm":0}""",
            "maxTurnRateDegPerS",
            317.24,
            2
        ),
        ["move-end"] = (
            """{"distanceMm":600,"speedMmPerS":180,"speedSdPercent":3,"resolutionMm":2.5,"slipSdPercent":1.2"""
                + ""","coastSdMm":2,"samplePeriodMs":10,"noiseSdMm":1,"brakeSdMm":1.5}""",
            "countedSdMm",
            7.5074,
            4
        ),
        ["path-error"] = (
            """{"moves":[{"kind":"straight","distanceMm":800,"distanceSdMm":6,"veerSdDegPerM":2}"""
                + """,{"kind":"turn","turnDeg":90,"turnSdDeg":3},{"kind":"straight","distanceMm":500,"distanceSdMm":4"""
                + ""","veerSdDegPerM":2}],"startSdMm":5,"startHeadingSdDeg":1}""",
            "sdXMm",
            32.1953,
            4
        ),
        ["line-switch"] = (
            """{"fastMmPerS":190,"slowMmPerS":110,"trackWidthMm":118,"sensorAheadMm":55,"samplePeriodMs":10"""
                + ""","readingsNeeded":2,"actuatorDelayMs":40}""",
            "weaveMm",
            2.4562,
            4
        ),
        ["line-gain"] = (
            """{"speedMmPerS":150,"trackWidthMm":118,"sensorAheadMm":60,"contrastPercentPerMm":4.2"""
                + ""","maxWheelSpeedMmPerS":520,"samplePeriodMs":10,"actuatorDelayMs":40,"motorLagMs":0}""",
            "K",
            0.08167,
            5
        ),
        ["stick-mix"] = ("""{"forwardDeg":70,"turnDeg":-35,"deadbandDeg":15,"fullScaleDeg":90}""", "leftPercent", 46.667, 3),
        ["meter"] = ("""{"wheelDeg":3600,"wheelDiameterMm":100,"ratePer100Mm":0.3,"startCharge":1.5,"roundTo":0.05}""", "charge", 10.9, 9),
        ["branches"] = (
            """{"branches":[{"name":"a","steps":[{"label":"x","seconds":2,"repeats":3}]}"""
                + """,{"name":"b","steps":[{"label":"y","seconds":5,"repeats":1}]}]}""",
            "totals[0].seconds",
            6,
            9
        ),
        ["compare-rates"] = ("""{"before":{"passes":6,"runs":10},"after":{"passes":9,"runs":10},"confidence":0.95}""", "high", 0.5988, 4),
        ["match-plan"] = (
            """{"limitS":120,"missions":[{"name":"A","points":20,"runS":30,"resetS":10,"success":0.8,"tries":5,"successLow":0.7"""
                + ""","successHigh":0.9},{"name":"B","points":30,"runS":45,"resetS":10,"success":0.5}],"penaltyPerTouch":0"""
                + ""","fixedOrder":false,"own":["B","A","B","A"]}""",
            "sdPoints",
            14.9337,
            4
        ),
        ["colours"] = (
            """{"classes":[{"name":"rust","samples":[[100,50,40],[104,52,39],[98,49,43],[101,53,41]]}"""
                + """,{"name":"weed","samples":[[50,90,45],[52,94,44],[49,88,47],[51,91,43]]}]}""",
            "accuracy",
            1,
            9
        ),
    };

    private async Task<(HttpStatusCode Status, JsonElement Body)> Post(string name, string json)
    {
        var response = await bench.Http.PostAsync("/api/sums/" + name, new StringContent(json, Encoding.UTF8, "application/json"));
        return (response.StatusCode, await response.Content.ReadFromJsonAsync<JsonElement>());
    }

    public static TheoryData<string> Names => [.. Sums.Keys];

    [Theory]
    [MemberData(nameof(Names))]
    public async Task Figures_over_http(string name)
    {
        var (body, field, value, digits) = Sums[name];
        var (status, answer) = await Post(name, body);
        Assert.True(status == HttpStatusCode.OK, answer.ToString());
        var at = answer.GetProperty("result");
        foreach (var part in field.Replace("[0]", ".0").Split('.'))
            at = int.TryParse(part, out var i) ? at[i] : at.GetProperty(part);
        Assert.Equal(value, at.ValueKind == JsonValueKind.True ? 1 : at.GetDouble(), digits);
        Assert.NotEqual(0, answer.GetProperty("steps").GetArrayLength());
        // Nothing answers NaN or infinity: every number of the answer is a JSON number.
        Assert.DoesNotContain("NaN", answer.ToString());
        Assert.DoesNotContain("Infinity", answer.ToString());
    }

    // Every place of a body that holds a number, as path and setter.
    private static IEnumerable<(string Path, Action<JsonNode?> Set)> Numbers(JsonNode node, string path = "")
    {
        if (node is JsonObject o)
            foreach (var (key, child) in o.ToArray())
            {
                var here = path == "" ? key : $"{path}.{key}";
                if (child is JsonValue v && v.GetValueKind() == JsonValueKind.Number)
                    yield return (here, n => o[key] = n);
                else if (child is not null)
                    foreach (var inner in Numbers(child, here))
                        yield return inner;
            }
        else if (node is JsonArray a)
            for (var i = 0; i < a.Count; i++)
            {
                var at = i;
                var here = $"{path}[{i}]";
                if (a[i] is JsonValue v && v.GetValueKind() == JsonValueKind.Number)
                    yield return (here, n => a[at] = n);
                else if (a[i] is { } child)
                    foreach (var inner in Numbers(child, here))
                        yield return inner;
            }
    }

    [Theory]
    [MemberData(nameof(Names))]
    public async Task Every_number_refuses_text_and_infinity_by_name(string name)
    {
        var paths = Numbers(JsonNode.Parse(Sums[name].Body)!).Select(n => n.Path).ToArray();
        Assert.NotEmpty(paths);
        foreach (var path in paths)
        foreach (var bad in new[] { "\"12 mm\"", "1e999", "true" })
        {
            var body = JsonNode.Parse(Sums[name].Body)!;
            Numbers(body).First(n => n.Path == path).Set(JsonValue.Create("?"));
            var (status, answer) = await Post(name, body.ToJsonString().Replace("\"?\"", bad));
            Assert.True(status == HttpStatusCode.BadRequest, $"{name} {path} = {bad}: {(int)status} {answer}");
            var fields = answer.GetProperty("errors").EnumerateObject().Select(e => e.Name).ToArray();
            // A sample of three numbers is named as a whole: which of them is wrong is plain to see.
            Assert.True(fields.Any(f => f == path || path.StartsWith(f + "[")), $"{name} {path} = {bad} named {string.Join(", ", fields)}");
        }
    }

    [Theory]
    [MemberData(nameof(Names))]
    public async Task Negative_and_huge_are_answered_or_refused_and_never_break(string name)
    {
        foreach (var path in Numbers(JsonNode.Parse(Sums[name].Body)!).Select(n => n.Path).ToArray())
        foreach (var odd in new[] { -1.0, 0, 1e300, -1e300, 1e-300 })
        {
            var body = JsonNode.Parse(Sums[name].Body)!;
            Numbers(body).First(n => n.Path == path).Set(JsonValue.Create(odd));
            var (status, answer) = await Post(name, body.ToJsonString());
            Assert.True(status is HttpStatusCode.OK or HttpStatusCode.BadRequest, $"{name} {path} = {odd}: {(int)status} {answer}");
            if (status == HttpStatusCode.BadRequest)
                Assert.NotEmpty(answer.GetProperty("errors").EnumerateObject());
        }
    }

    [Theory]
    [InlineData("threshold", "samplePeriodMs")]
    [InlineData("zones", "samplePeriodMs")]
    [InlineData("marker-pass", "markerLengthMm", "spotDiameterMm", "samplePeriodMs", "readingsNeeded")]
    [InlineData("sweep", "targetWidthMm", "rangeMm", "beamHalfAngleDeg", "samplePeriodMs", "readingsNeeded")]
    [InlineData("stop-distance", "approachSpeedMmPerS", "samplePeriodMs", "readingsNeeded", "actuatorDelayMs", "targetGapMm")]
    [InlineData(
        "edge-guard",
        "sensorAheadMm",
        "sensorOffsetsMm",
        "halfTrackMm",
        "approachAngleMaxDeg",
        "speedMmPerS",
        "samplePeriodMs",
        "readingsNeeded",
        "actuatorDelayMs",
        "decelMmPerS2"
    )]
    [InlineData(
        "reaction",
        "objectSpeedMmPerS",
        "samplePeriodMs",
        "readingsNeeded",
        "actuatorDelayMs",
        "actuatorTravelDeg",
        "actuatorDegPerS"
    )]
    [InlineData("push-over", "sensorAheadMm", "bumperAheadMm", "objectRadiusMm", "stopDistanceMm")]
    [InlineData("stop-gap", "approachSpeedMmPerS", "samplePeriodMs", "readingsNeeded", "actuatorDelayMs", "triggerMm", "decelMmPerS2")]
    [InlineData("beam-cross", "speedMmPerS", "lengthMm", "beamWidthMm", "samplePeriodMs")]
    [InlineData("on-off", "riseRatePerS", "fallRatePerS", "onBelow", "offAbove", "delayS", "samplePeriodS")]
    [InlineData("lift-torque", "parts", "motorTorqueNmm")]
    [InlineData("input-scale", "reading", "bits", "referenceV", "toBits", "toReferenceV")]
    [InlineData("wheel-way", "wheelDiameterMm", "trackWidthMm", "leftWheelDeg", "rightWheelDeg")]
    [InlineData("power-budget", "cells", "voltsPerCell", "capacityMAh", "controllerOutputMaxMA", "controllerOutputV", "devices")]
    [InlineData("signal-level", "outputHighV", "inputMaxV", "inputHighMinV")]
    [InlineData("success-rate", "passes", "runs")]
    [InlineData("wheel-travel", "wheelDiameterMm", "distanceMm")]
    [InlineData("turn", "wheelDiameterMm", "trackWidthMm", "turnDeg", "style")]
    [InlineData("drive-fit", "pairs", "target")]
    [InlineData("gear-train", "stages", "motorSpeedDegPerS")]
    [InlineData("click-encoder", "clicksPerEncoderTurn", "encoderTurnsPerWheelTurn", "wheelDiameterMm", "trackWidthMm", "samplePeriodMs")]
    [InlineData("axis-travel", "kind", "motorSpeedDegPerS")]
    [InlineData("load-seat", "forkLengthMm", "seatGapMm", "loadDepthMm", "heelAheadMm", "frictionCoefficient")]
    [InlineData(
        "move-end",
        "distanceMm",
        "speedMmPerS",
        "speedSdPercent",
        "resolutionMm",
        "slipSdPercent",
        "coastSdMm",
        "samplePeriodMs",
        "noiseSdMm",
        "brakeSdMm"
    )]
    [InlineData("path-error", "moves")]
    [InlineData(
        "line-switch",
        "fastMmPerS",
        "slowMmPerS",
        "trackWidthMm",
        "sensorAheadMm",
        "samplePeriodMs",
        "readingsNeeded",
        "actuatorDelayMs"
    )]
    [InlineData(
        "line-gain",
        "speedMmPerS",
        "trackWidthMm",
        "sensorAheadMm",
        "contrastPercentPerMm",
        "maxWheelSpeedMmPerS",
        "samplePeriodMs",
        "actuatorDelayMs"
    )]
    [InlineData("stick-mix", "forwardDeg", "turnDeg")]
    [InlineData("meter", "wheelDeg", "wheelDiameterMm", "ratePer100Mm")]
    [InlineData("branches", "branches")]
    [InlineData("compare-rates", "before", "after")]
    [InlineData("match-plan", "limitS", "missions")]
    public async Task What_must_be_given_is_named_when_it_is_missing(string name, params string[] fields)
    {
        foreach (var field in fields)
        {
            var body = JsonNode.Parse(Sums[name].Body)!.AsObject();
            body.Remove(field);
            var (status, answer) = await Post(name, body.ToJsonString());
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.Contains(field, answer.GetProperty("errors").EnumerateObject().Select(e => e.Name));
        }
        var (empty, all) = await Post(name, "{}");
        Assert.Equal(HttpStatusCode.BadRequest, empty);
        Assert.Superset(fields.ToHashSet(), all.GetProperty("errors").EnumerateObject().Select(e => e.Name).ToHashSet());
    }
}
