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
Try("shipped", S, true); Try("   count 4", S.Replace("becomes sleepers:", "becomes sleepers for 4 readings:"), true);
foreach (var v in new[]{25,30,35,40,45,50,53,54}) { Try($"slow {v}", S.Replace("60 %", v + " %")); Try("   both", S.Replace("60 %", v + " %").Replace("becomes sleepers:", "becomes sleepers for 4 readings:"));}
