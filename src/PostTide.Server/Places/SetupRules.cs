using FluentValidation;
using PostTide.Core.Replies;
using PostTide.Core.Time;
using PostTide.Destinations;

namespace PostTide.Server.Places;

/// <summary>Validates a request before its handler sees it, and answers with every problem by field (RFC 9457).</summary>
internal sealed class Validated<T>(IValidator<T> validator) : IEndpointFilter
{
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var result = await validator.ValidateAsync(context.Arguments.OfType<T>().Single());
        return result.IsValid ? await next(context) : TypedResults.ValidationProblem(result.ToDictionary(), title: result.Errors[0].ErrorMessage);
    }
}

internal sealed class MailboxRules : AbstractValidator<MailboxSetup>
{
    public MailboxRules()
    {
        RuleFor(m => m.Name).NotEmpty().WithMessage("A mailbox needs a name.").MaximumLength(120);
        RuleForEach(m => m.Addresses).Must(a => ReplySafety.IsPlainAddress(a.Address.Trim())).WithMessage((_, a) => $"“{a.Address}” is not an e-mail address.");
        RuleFor(m => m.Addresses).NotEmpty().WithMessage("A mailbox needs at least one address.");
        RuleFor(m => m.Connection!).SetValidator(new ConnectionRules()).When(m => m.Connection is not null);
        RuleFor(m => m.Approval!).SetValidator(new ApprovalRules()).When(m => m.Approval is not null);
    }
}

internal sealed class ConnectionRules : AbstractValidator<ConnectionSetup>
{
    public ConnectionRules()
    {
        RuleFor(c => c.Host).Must(h => Uri.CheckHostName(h.Trim()) != UriHostNameType.Unknown).WithMessage("The server’s name is not one.");
        RuleFor(c => c.Port).InclusiveBetween(1, 65_535).WithMessage("A port lies between 1 and 65535.");
        RuleFor(c => c.User).NotEmpty().WithMessage("A mailbox needs a user name.").MaximumLength(300);
        RuleFor(c => c.Folder).NotEmpty().WithMessage("A folder has to be named; INBOX is the usual one.").MaximumLength(300);
        RuleFor(c => c.BackDays).InclusiveBetween(0, 3_650).WithMessage("Mail is read between 0 and 3,650 days back.");
        RuleFor(c => c.PaceMinutes).InclusiveBetween(1, 1_440).WithMessage("A pace lies between 1 minute and a day.");
        RuleFor(c => c.Cap).InclusiveBetween(1, 100_000).WithMessage("A look takes between 1 and 100,000 messages, or any number.");
        RuleFor(c => c.Hours).Must(h => h is null || h.Read() is not null)
            .WithMessage("The hours need two times such as 07:00, at least one day and a time zone such as Europe/London.");
    }
}

internal sealed class ApprovalRules : AbstractValidator<ApprovalSetup>
{
    public ApprovalRules()
    {
        RuleFor(a => a.Approved).Must(a => a.Any(e => e.Trim().Length > 0)).WithMessage("With no approved sender everything would be held.");
        RuleForEach(a => a.Approved).Must(IsAddressOrDomain).WithMessage((_, e) => $"“{e}” is neither an address nor a domain.");
        RuleForEach(a => a.TrustedHosts).Must(h => h.Trim().Length == 0 || System.Net.IPAddress.TryParse(h.Trim(), out _) || System.Net.IPNetwork.TryParse(h.Trim(), out _))
            .WithMessage((_, h) => $"“{h}” is neither an IP address nor a network such as 10.0.0.0/8.");
    }

    private static bool IsAddressOrDomain(string entry) => DoNotMailRules.IsAddressOrDomain(entry);
}

internal sealed class QueueRules : AbstractValidator<QueueSetup>
{
    public QueueRules() => RuleFor(q => q.Name).NotEmpty().WithMessage("A queue needs a name.").MaximumLength(120);
}

internal sealed class KeywordListRules : AbstractValidator<KeywordListSetup>
{
    public KeywordListRules()
    {
        RuleFor(k => k.Name).NotEmpty().WithMessage("A keyword list needs a name.").MaximumLength(120);
        RuleFor(k => k.Words).Must(w => w.Count <= 100_000).WithMessage("A keyword list holds at most 100,000 words.");
        RuleForEach(k => k.Words).MaximumLength(200).WithMessage("A word or phrase has at most 200 characters.");
    }
}

internal sealed class SavedConditionRules : AbstractValidator<SavedConditionSetup>
{
    public SavedConditionRules()
    {
        RuleFor(c => c.Name).NotEmpty().WithMessage("A saved condition needs a name.").MaximumLength(120);
        RuleFor(c => c.Description).MaximumLength(1_000);
        RuleFor(c => c.Set).Must(s => !s.IsEmpty()).WithMessage("A saved condition needs at least one condition.");
    }
}

internal sealed class DeskHoursRules : AbstractValidator<DeskHoursSetup>
{
    public DeskHoursRules() => RuleFor(d => d).Must(d => ActiveHours.Read(d.From, d.Until, [.. d.Days], d.Zone) is not null)
        .WithName("Desk").WithMessage("The hours cannot be read: times are written 08:30, the zone is a name such as Europe/London, and there is at least one day.");
}

internal sealed class TemplateRules : AbstractValidator<TemplateSetup>
{
    public TemplateRules()
    {
        RuleFor(t => t.Name).NotEmpty().WithMessage("A template needs a name.").MaximumLength(120);
        RuleFor(t => t.Body).NotEmpty().WithMessage("A template needs a text.")
            .Custom((body, context) =>
            {
                if (LiquidText.Check(body) is { } error)
                {
                    context.AddFailure($"The template cannot be read: {error}");
                }
            });
    }
}

internal sealed class DestinationRules : AbstractValidator<DestinationSetup>
{
    public DestinationRules()
    {
        RuleFor(d => d.Name).NotEmpty().WithMessage("A destination needs a name.").MaximumLength(120);
        RuleFor(d => d.Url).Must(HttpDestination.IsUsable).WithMessage("A destination needs a full address that begins with http:// or https:// and holds no password.");
    }
}

internal sealed class DoNotMailRules : AbstractValidator<DoNotMailSetup>
{
    public DoNotMailRules() => RuleForEach(d => d.Entries)
        .Must(IsAddressOrDomain).WithMessage((_, e) => $"“{e}” is neither an address nor a domain.");

    public static bool IsAddressOrDomain(string entry) =>
        entry.Trim().Length == 0 || ReplySafety.IsPlainAddress(entry.Contains('@', StringComparison.Ordinal) ? entry.Trim() : $"a@{entry.Trim()}");
}
