using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs;
using Chiton.Core.Proving;
using Chiton.Core.Simulation;
using Chiton.Data.Demo;

var d = SeedTrolley.Design; var words = Vocabulary.Of(d);
var cal = SeedTrolley.Calibration(1); var cals = new Dictionary<string, Chiton.Core.Sensing.SensorCalibration> { ["Tag eye"] = cal };
var r = cal.Pairs()[0].Sum.Result;
Console.WriteLine($"t {r.Threshold} h {r.Hysteresis} sep {r.Separation} N {r.ReadingsNeeded} safe {r.ReadingsNeededSafe} false {r.FalsePerReading} {cal.Pairs()[0].Sum.Verdict}");
foreach (var l in r.Lists) Console.WriteLine($"{l.Name} {l.Mean} {l.Sd} {l.Min} {l.Max} lag {l.Lag1}");
foreach (var c in cal.Pairs()[0].Sum.Cautions) Console.WriteLine(c);
var m = SeedTrolley.Motion(double.Parse(args[0]), double.Parse(args[1]), true);
#pragma warning disable CS8321
void Try(string name, string script, bool show = false) {
  var p = ScriptParser.Parse(script, words);
  foreach (var x in p.Diagnostics) Console.WriteLine(x);
  var s = RailSetup.Build(d, m, cals, p.Program);
  var sw = System.Diagnostics.Stopwatch.StartNew();
  var pr = Prover.Run(s, 200, 1);
  Console.WriteLine($"{name}: {pr.Passes}/200 [{pr.Low:0.000},{pr.High:0.000}] {sw.ElapsedMilliseconds} ms");
  if (show) { foreach (var f in pr.Failures) Console.WriteLine("   " + f); foreach (var f in RailChecks.Find(d, m, cals, p.Program)) Console.WriteLine("   " + f + f.Cure?.Edits[0]); }
}
var S = SeedTrolley.Script;
(int, double, double) Rate(string script, double full, double brake, double tremble, double lagK) {
  var mm = SeedTrolley.Motion(full, brake, true); mm = mm with { TremblePercentPerMPerS = mm.TremblePercentPerMPerS with { Value = tremble } };
  var pr = Prover.Run(RailSetup.Build(d, mm, cals, ScriptParser.Parse(script, words).Program), 200, 1); return (pr.Passes, pr.Low, pr.High); }
foreach (var tr in new[]{24.0,26,28}) foreach (var full in new[]{775.0,780,785,790}) foreach (var brake in new[]{2200.0}) {
  var a = Rate(S, full, brake, tr, 0);
  var counts = new[]{2,3,4,5}.Select(k => Rate(S.Replace("becomes sleepers:", $"becomes sleepers for {k} readings:"), full, brake, tr, 0)).ToArray();
  var slow = new[]{30,40,50,53,54,55,56}.Select(k => Rate(S.Replace("60 %", $"{k} %"), full, brake, tr, 0)).ToArray();
  var both = new[]{30,40,50,54,55,56}.Select(k => Rate(S.Replace("60 %", $"{k} %").Replace("becomes sleepers:", "becomes sleepers for 3 readings:"), full, brake, tr, 0)).ToArray();
  Console.WriteLine($"tr {tr} full {full}: shipped {a.Item1} high {a.Item3:0.000} | count {string.Join(" ", counts.Select(c => c.Item1))} low {counts.Min(c=>c.Item2):0.000} | slow {string.Join(" ", slow.Select(c => c.Item1))} low {slow.Min(c=>c.Item2):0.000} | both {string.Join(" ", both.Select(c => c.Item1))}");
}
