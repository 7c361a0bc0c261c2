using System.Globalization;
using System.Net;
using System.Text;
using PostTide.StandIns.PracticeMailboxes;

namespace PostTide.StandIns;

/// <summary>The practice pages: what the stand-ins received, and switches to make them fail.</summary>
internal static class PracticePages
{
    private const int MostShown = 100;

    public static void MapPracticePages(this WebApplication app)
    {
        app.MapGet("/", (PracticeMailHost mail, PracticeApplication application, Trickle trickle, PracticeStore mailboxes, Misbehaviour wrong, PracticeSorter sorter) =>
            Results.Content(Page(mail, application, trickle, mailboxes, wrong, sorter), "text/html; charset=utf-8"));
        app.MapGet("/mail", (PracticeMailHost mail) => mail.Received);
        app.MapGet("/mail/{number:int}", (int number, PracticeMailHost mail) =>
            mail.Received.FirstOrDefault(m => m.Number == number) is { } found ? Results.Text(found.Source, "text/plain", Encoding.UTF8) : Results.NotFound());
        app.MapGet("/records", (PracticeApplication application) => application.Records);
        app.MapPost("/records", TakeAsync);
        app.MapPost("/sorter/v1/chat/completions", (HttpRequest request, PracticeSorter sorter, CancellationToken stop) => sorter.AnswerAsync(request, stop));
        app.MapGet("/sorter/asked", (PracticeSorter sorter) => sorter.Asked);
        app.MapMailboxes();
        app.MapPost("/switch/{what}", async (string what, HttpRequest request, PracticeMailHost mail, PracticeApplication application, Trickle trickle, PracticeStore mailboxes, Misbehaviour wrong, PracticeSorter sorter) =>
        {
            var on = (await request.ReadFormAsync())["on"] == "yes";
            switch (what)
            {
                case "mail-refuses":
                    mail.Refuses = on;
                    break;
                case "application-fails":
                    application.Fails = on;
                    break;
                case "sorter-fails":
                    sorter.Fails = on;
                    break;
                case "sorter-slow":
                    sorter.Slow = on;
                    break;
                case "sorter-obeys":
                    sorter.Obeys = on;
                    break;
                case "trickle":
                    trickle.Paused = !on;
                    break;
                case "imap-refuses":
                    wrong.Refuses = on;
                    break;
                case "imap-drops":
                    wrong.DropsEvery = on ? 3 : 0;
                    break;
                case "imap-stalls":
                    wrong.StallSeconds = on ? 60 : 0;
                    break;
                case "delivers-twice":
                    wrong.DeliversTwice = on;
                    break;
                case "renumber":
                    foreach (var user in mailboxes.Accounts)
                    {
                        mailboxes.Renumber(user);
                    }

                    break;
                case "send-one":
                    await trickle.SendOneAsync(CancellationToken.None);
                    break;
            }

            return Results.Redirect("/");
        }).DisableAntiforgery();
    }

    private static async Task<IResult> TakeAsync(HttpRequest request, PracticeApplication application)
    {
        if (application.Fails)
        {
            return Results.Text("told to fail", statusCode: StatusCodes.Status503ServiceUnavailable);
        }

        using var reader = new StreamReader(request.Body);
        var (record, repeated) = application.Take(request.Headers["Idempotency-Key"].ToString(), await reader.ReadToEndAsync());
        return repeated
            ? Results.Text($"already recorded as {record.Number}")
            : Results.Text($"recorded as {record.Number}", statusCode: StatusCodes.Status201Created);
    }

    private static string Page(
        PracticeMailHost mail, PracticeApplication application, Trickle trickle, PracticeStore mailboxes, Misbehaviour wrong, PracticeSorter sorter)
    {
        var page = new StringBuilder();
        page.Append("""
            <!doctype html><html lang="en"><meta charset="utf-8"><meta http-equiv="refresh" content="5"><title>Practice stand-ins</title>
            <style>body{font:14px/1.5 system-ui,sans-serif;background:#f4f2ea;color:#13222c;margin:0}main{max-width:1100px;margin:0 auto;padding:0 24px 40px}
            .warn{background:repeating-linear-gradient(135deg,#ffe2a3 0 14px,#f4f2ea 14px 28px);padding:10px 24px;font-weight:700}
            h1{font-size:22px}h2{font-size:17px;border-bottom:1px solid #13222c;padding-bottom:4px}table{border-collapse:collapse;width:100%}
            td,th{text-align:left;padding:4px 10px 4px 0;border-bottom:1px solid #d8d3c3;vertical-align:top;overflow-wrap:anywhere}form{display:inline}
            button{font:inherit;padding:3px 10px;margin-right:8px;border:1px solid #13222c;background:#fffefb}</style>
            <div class="warn">PRACTICE — nothing here leaves this machine</div><main><h1>Practice stand-ins</h1>
            """);
        page.Append("<p>").Append(Switch("mail-refuses", mail.Refuses, "Let the mail host accept again", "Make the mail host refuse"))
            .Append(Switch("application-fails", application.Fails, "Let the application work again", "Make the application fail"))
            .Append(Switch("trickle", !trickle.Paused, "Stop fresh mail", "Let fresh mail come"))
            .Append(Switch("send-one", false, "", "Send one fresh mail now")).Append("</p><p>")
            .Append(Switch("imap-refuses", wrong.Refuses, "Let the mail server work again", "Make the mail server refuse"))
            .Append(Switch("imap-drops", wrong.DropsEvery > 0, "Stop dropping connections", "Drop the connection in every third message"))
            .Append(Switch("imap-stalls", wrong.StallSeconds > 0, "Stop stalling", "Make the mail server stall"))
            .Append(Switch("delivers-twice", wrong.DeliversTwice, "Deliver once again", "Deliver every message twice"))
            .Append(Switch("renumber", false, "", "Change UIDVALIDITY")).Append("</p><p>")
            .Append(Switch("sorter-fails", sorter.Fails, "Let the outside sorter work again", "Make the outside sorter fail"))
            .Append(Switch("sorter-slow", sorter.Slow, "Let the outside sorter be quick again", "Make the outside sorter slow"))
            .Append(Switch("sorter-obeys", sorter.Obeys, "Let the outside sorter sort again", "Make the outside sorter obey what mail says")).Append("</p>");

        page.Append("<h2>Practice mailboxes (IMAP)</h2><table><tr><th>User<th>Folder<th>Messages");
        foreach (var (user, folder) in mailboxes.Accounts.SelectMany(u => mailboxes.Folders(u).Select(f => (u, f))))
        {
            page.Append(CultureInfo.InvariantCulture, $"<tr><td>{E(user)}<td>{E(folder.Name)}<td>{folder.Messages.Count}");
        }

        page.Append("</table>");

        page.Append("<h2>Practice mail host: ").Append(mail.Received.Count).Append(" received</h2><table><tr><th>No.<th>At<th>To<th>Subject");
        foreach (var m in mail.Received.Reverse().Take(MostShown))
        {
            page.Append(CultureInfo.InvariantCulture, $"<tr><td><a href=\"/mail/{m.Number}\">{m.Number}</a><td>{m.At:HH:mm:ss}<td>{E(string.Join(", ", m.Recipients))}<td>{E(SubjectOf(m.Source))}");
        }

        page.Append("</table><h2>Practice outside sorter: ").Append(sorter.Asked.Count).Append(" questions</h2><table><tr><th>At<th>Text<th>Answer");
        foreach (var q in sorter.Asked.Reverse().Take(MostShown))
        {
            page.Append(CultureInfo.InvariantCulture, $"<tr><td>{q.At:HH:mm:ss}<td>{E(q.Text)}<td><code>{E(q.Answer)}</code>");
        }

        page.Append("</table><h2>Practice application: ").Append(application.Records.Count).Append(" records</h2><table><tr><th>No.<th>At<th>Record<th>Repeats");
        foreach (var r in application.Records.Reverse().Take(MostShown))
        {
            page.Append(CultureInfo.InvariantCulture, $"<tr><td>{r.Number}<td>{r.At:HH:mm:ss}<td><code>{E(r.Body)}</code><td>{r.Repeats}");
        }

        return page.Append("</table></main>").ToString();
    }

    private static string Switch(string what, bool on, string turnOff, string turnOn) =>
        $"<form method=\"post\" action=\"/switch/{what}\"><button name=\"on\" value=\"{(on ? "no" : "yes")}\">{E(on ? turnOff : turnOn)}</button></form>";

    private static string SubjectOf(string source)
    {
        using var stream = new MemoryStream(Encoding.UTF8.GetBytes(source));
        return MimeKit.MimeMessage.Load(stream).Subject ?? "";
    }

    private static string E(string text) => WebUtility.HtmlEncode(text);
}
