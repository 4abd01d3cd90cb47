using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>Rigs to start from. Their numbers are guesses until somebody measures them.</summary>
public static class RigTemplates
{
    /// <summary>All templates: name, what it is, and the rig of that name.</summary>
    public static IReadOnlyList<(string Template, string About, Func<string, RigDesign> Make)> All =>
        [
            ("nothing yet", "an empty rig, to be described from scratch", n => new(n, "", [], [], [])),
            (
                "rail vehicle",
                "one motor, an eye that looks down at the rail, a lamp",
                n =>
                    new(
                        n,
                        "",
                        [ControllerTemplates.Make("rail vehicle", "Vehicle box")],
                        [Eye("Rail eye", 40, ["rail", "marker"])],
                        [new("Wheels", ActuatorKind.PlainMotor), new("Lamp", ActuatorKind.Lamp) { Connection = Connection.BuiltIn }]
                    )
                    {
                        Mechanisms = [new("Vehicle", MechanismKind.RailVehicle, ["Wheels"]) { LengthMm = Guess(120, "mm", 60, 1) }],
                        Rail = new(4000, "rail", [], []),
                        Starts = [new("Vehicle", Guess(0, "mm", 60, -1000) with { MoveSd = 6 })],
                    }
            ),
            (
                "two-wheel drive",
                "two wheels, a range sensor ahead, a bumper",
                n =>
                    new(
                        n,
                        "",
                        [ControllerTemplates.Make("six sockets", "Drive box")],
                        [
                            Range("Range", 60, ["near", "middle", "far"]),
                            new("Bumper", SensorKind.Touch, 10, 0, ["up", "down"]) { Mount = new(Guess(70, "mm", 40, -500)) },
                        ],
                        [
                            new("Left wheel", ActuatorKind.RegulatedMotor),
                            new("Right wheel", ActuatorKind.RegulatedMotor) { Reversed = true },
                        ]
                    )
                    {
                        Mechanisms =
                        [
                            new("Drive", MechanismKind.TwoWheelDrive, ["Left wheel", "Right wheel"])
                            {
                                WheelDiameterMm = Guess(60, "mm", 12, 1),
                                TrackWidthMm = Guess(120, "mm", 30, 1),
                                MotorTurnsPerTurn = Guess(1, "", 1, 0.01),
                            },
                        ],
                        Outline = [new(75, -65), new(75, 65), new(-55, 65), new(-55, -65)],
                        Starts =
                        [
                            new(
                                "Robot",
                                Guess(0, "mm", 30, -1000) with
                                {
                                    MoveSd = 5,
                                },
                                Guess(0, "mm", 30, -1000) with
                                {
                                    MoveSd = 5,
                                },
                                Guess(0, "°", 12, -90) with
                                {
                                    MoveSd = 2,
                                }
                            ),
                        ],
                    }
            ),
            (
                "lift",
                "a mast with a home switch and an eye that counts notches",
                n =>
                    new(
                        n,
                        "",
                        [ControllerTemplates.Make("six sockets", "Lift box")],
                        [
                            Eye("Notch eye", 0, ["mast", "notch"]),
                            new("Home switch", SensorKind.Touch, 10, 0, ["up", "down"]) { On = "Mast" },
                        ],
                        [new("Mast motor", ActuatorKind.RegulatedMotor)]
                    )
                    {
                        Mechanisms =
                        [
                            new("Mast", MechanismKind.Lift, ["Mast motor"])
                            {
                                Travel = new(
                                    Guess(0, "motor deg", 40, -1e6),
                                    Guess(1400, "motor deg", 300, 1),
                                    HomeEnd.From,
                                    "Home switch"
                                ),
                                Positions = ["bottom", "shelf"],
                                Directions = [new("up", true), new("down", false)],
                                MotorTurnsPerTurn = Guess(1, "", 1, 0.01),
                            },
                        ],
                    }
            ),
            (
                "gripper",
                "jaws that close by a motor until the force rises",
                n =>
                    new(
                        n,
                        "",
                        [ControllerTemplates.Make("four and four", "Jaw box")],
                        [new("Grip force", SensorKind.Force, 10, 0.1, ["loose", "held"]) { On = "Jaws" }],
                        [new("Jaw motor", ActuatorKind.RegulatedMotor)]
                    )
                    {
                        Mechanisms =
                        [
                            new("Jaws", MechanismKind.Gripper, ["Jaw motor"])
                            {
                                Travel = new(
                                    Guess(0, "motor deg", 20, -1e6),
                                    Guess(170, "motor deg", 60, 1),
                                    PastEnd: PastEnd.Stalls,
                                    JamRisk: "a load that slips sideways"
                                ),
                                Positions = ["open", "closed"],
                                Directions = [new("open", false), new("close", true)],
                            },
                        ],
                    }
            ),
            (
                "pin board with probe and servo",
                "a level probe, a servo and a lamp on a pin board with its own pack",
                n =>
                    new(
                        n,
                        "",
                        [
                            ControllerTemplates.Make("pin board", "Board"),
                            ControllerTemplates.Make("strip", "Rails"),
                            ControllerTemplates.Make("pack", "Pack"),
                        ],
                        [
                            new("Probe", SensorKind.Probe, 100, 1, ["dry", "wet"])
                            {
                                Connection = Connection.Pins,
                                SupplyMinV = 3,
                                SupplyMaxV = 5.5,
                                ProbeSupplyV = 5,
                            },
                        ],
                        [
                            new("Drain", ActuatorKind.Servo)
                            {
                                Connection = Connection.Pins,
                                SupplyMinV = 4.8,
                                SupplyMaxV = 6.2,
                            },
                            new("Lamp", ActuatorKind.Lamp)
                            {
                                Connection = Connection.Pins,
                                SupplyMinV = 3,
                                SupplyMaxV = 5.5,
                            },
                        ]
                    )
                    {
                        Links =
                        [
                            new("Board", "ground", "Rails", "minus rail"),
                            new("Pack", "minus", "Rails", "minus rail"),
                            new("Pack", "plus", "Rails", "plus rail"),
                        ],
                        Mechanisms =
                        [
                            new("Drain flap", MechanismKind.Lid, ["Drain"])
                            {
                                Travel = new(Chosen(0, "deg"), Chosen(90, "deg")),
                                Positions = ["shut", "open"],
                            },
                        ],
                        Power = new(
                            4,
                            1.5,
                            1800,
                            2000,
                            50,
                            400,
                            5,
                            [
                                new("Probe", 1, 3, 5.5, 1, 5, 5, 1, "controller"),
                                new("Drain", 1, 4.8, 6.2, 8, 200, 650, 0.1, "pack"),
                                new("Lamp", 1, 3, 5.5, 0, 20, 20, 0.3, "controller"),
                            ]
                        ),
                    }
            ),
        ];

    /// <summary>A rig from a template.</summary>
    /// <param name="template">Name of the template.</param>
    /// <param name="name">What the rig is called.</param>
    /// <exception cref="InputProblem">When there is no such template.</exception>
    public static RigDesign Make(string template, string name) =>
        All.FirstOrDefault(t => t.Template == template).Make?.Invoke(name)
        ?? throw new InputProblem(
            "template",
            $"There is no template “{template}”. The templates are {string.Join(", ", All.Select(t => t.Template))}."
        );

    private static Quantity Guess(double value, string unit, double span, double min) =>
        new(value, unit, Provenance.Guessed, "from the template, not measured yet", 0, 0, span, min);

    private static Quantity Chosen(double value, string unit) => new(value, unit, Provenance.Chosen, "chosen");

    private static Sensor Eye(string name, double ahead, Sequence<string> zones) =>
        new(name, SensorKind.ReflectedLight, 10, 1, zones)
        {
            Lamp = OwnLamp.On,
            SpotDiameterMm = Guess(8, "mm", 6, 1),
            Mount = new(Guess(ahead, "mm", 40, -500), null, Guess(10, "mm", 10, 1)),
        };

    private static Sensor Range(string name, double ahead, Sequence<string> zones) =>
        new(name, SensorKind.Distance, 30, 1, zones)
        {
            Mount = new(Guess(ahead, "mm", 40, -500), Guess(0, "mm", 20, -500), Guess(50, "mm", 30, 1), Facing.Ahead),
            BeamHalfAngleDeg = Guess(12, "°", 10, 1),
            BlindMm = Guess(35, "mm", 30, 0),
            ReachMm = Guess(2000, "mm", 800, 100),
            SilentReading = 0,
            Bands = zones.Count == 3 ? [new(zones[0], 35, 180), new(zones[1], 180, 450), new(zones[2], 450, 2000)] : [],
        };
}
