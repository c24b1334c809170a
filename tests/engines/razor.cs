// Parses templates by Razor itself: texts on standard input, a JSON list of their spans each on a line of standard output, as
// [["Markup", "<p>"], ["Code", " var a = 1; "], …], errors among them. Texts come one after another, each behind its length in characters and a line end.
using System;
using System.IO;
using System.Linq;
using System.Web.Razor;
using System.Web.Razor.Parser.SyntaxTree;

static class Program {
  static string Quoted(string text) {
    var parts = text.Select(c => c == '"' || c == '\\' || c < ' ' || c > '~' ? string.Format("\\u{0:x4}", (int)c) : c.ToString());
    return "\"" + string.Concat(parts) + "\"";
  }

  static void Main() {
    var engine = new RazorTemplateEngine(new RazorEngineHost(new CSharpRazorCodeLanguage()));
    string length;
    while ((length = Console.In.ReadLine()) != null) {
      var text = new char[int.Parse(length)];
      Console.In.ReadBlock(text, 0, text.Length);
      var parsed = engine.ParseTemplate(new StringReader(new string(text)));
      var spans = parsed.Document.Flatten().Select(one => new[] { one.Kind.ToString(), one.Content });
      var errors = parsed.ParserErrors.Select(one => new[] { "Error", one.Message });
      Console.WriteLine("[" + string.Join(", ", spans.Concat(errors).Select(one => "[" + string.Join(", ", one.Select(Quoted)) + "]")) + "]");
    }
  }
}
