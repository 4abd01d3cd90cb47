using System.Collections.Concurrent;
using Chiton.Core.Checking;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Data;

/// <summary>A design as it was read once, with its programs parsed once, for all who ask. Designs are told apart by their hash and never
/// change.</summary>
public sealed class KnownDesign
{
    private const int Most = 400;
    private static readonly ConcurrentDictionary<string, KnownDesign> All = new();
    private readonly Lazy<IReadOnlyList<RigProgram>> programs;
    private readonly Lazy<double?> fastest;
    private readonly Lazy<IReadOnlyList<SceneResult>> scenes;

    private KnownDesign(string hash, RigDesign design)
    {
        (Hash, Design) = (hash, design);
        programs = new(() => RigPrograms.Of(Design));
        scenes = new(() => [.. SceneStarts.Of(Design).Select(s => SceneParser.Parse(s.Text, Design))]);
        fastest = new(() => Parsed.Diagnostics.Count == 0 ? RailChecks.FastestPower(Design, Parsed.Program) : null);
    }

    /// <summary>SHA-256 of its document.</summary>
    public string Hash { get; }

    /// <summary>The design.</summary>
    public RigDesign Design { get; }

    /// <summary>The running program, parsed.</summary>
    public ParseResult Parsed =>
        Programs.ElementAtOrDefault(Design.MainProgram)?.Parsed
        ?? ScriptParser.Parse(Design.Program.Script, Vocabulary.For(Design, Design.Program));

    /// <summary>The fastest power that the running program asks of a rail vehicle, %; null when it names none, or has faults.</summary>
    public double? FastestPower => fastest.Value;

    /// <summary>Its scenes, read; the one that stands for them where it has none.</summary>
    public IReadOnlyList<SceneResult> Scenes => scenes.Value;

    /// <summary>Names of the scenes that the header and Prove count: those that say so, else the first.</summary>
    public IReadOnlyList<string> Counting =>
        Scenes.Any(s => s.Scene.Counts) ? [.. Scenes.Where(s => s.Scene.Counts).Select(s => s.Scene.Name)] : [Scenes[0].Scene.Name];

    /// <summary>SHA-256 of everything a run in a scene depends on but its seed: those of the first that counts are those of the rig
    /// itself.</summary>
    /// <param name="inputs">The same of the rig.</param>
    /// <param name="scene">Name of the scene; null for the first that counts.</param>
    public string InputsIn(string inputs, string? scene) =>
        scene is null || scene == Counting[0] ? inputs : Documents.Hash($"{inputs}\n{scene}");

    /// <summary>All of its programs, parsed.</summary>
    public IReadOnlyList<RigProgram> Programs => programs.Value;

    /// <summary>The design of that hash, when it is known.</summary>
    public static KnownDesign? Of(string hash) => All.GetValueOrDefault(hash);

    /// <summary>Reads a document and keeps what it says.</summary>
    public static KnownDesign Keep(string hash, string document)
    {
        if (All.Count >= Most)
            All.Clear();
        return All[hash] = new(hash, Designs.Read(document));
    }
}
