import type { TemplateContent } from '#core/document/template.ts'
import type { Field } from '#core/outline/field.ts'
import { field, Writer } from './writing.ts'

const outline: readonly Field[] = [
  field('season', 'Season', 'text', { example: '2027' }),
  field('grower.name', 'Orchard', 'text', { example: 'Brightwater Orchard' }),
  field('grower.legal_form', 'Legal form', 'text', { example: 'LLC' }),
  field('grower.contact', 'Contact', 'text', { example: 'Maud Ellery' }),
  field('grower.email', 'Contact’s mail address', 'email', { example: 'maud.ellery@brightwater.example' }),
  field('grower.address', 'Address', 'text', { example: '14 Weir Road, Tansy Falls' }),
  field('orchard.county', 'County', 'text', { example: 'Hollin' }),
  field('orchard.state', 'State', 'text', { example: 'Oregon' }),
  field('crop', 'Crop', 'choice', {
    choices: ['almond', 'apple', 'blueberry', 'cherry', 'pear', 'plum'],
    example: 'cherry',
  }),
  field('acres', 'Acres', 'number', { example: '120' }),
  field('bloom.start', 'First day of bloom', 'date', { example: '2027-03-28' }),
  field('bloom.end', 'Last day of bloom', 'date', { example: '2027-04-16' }),
  field('organic', 'Organic', 'yes/no', { example: 'no' }),
  field('land.leased', 'Land leased', 'yes/no', { example: 'no' }),
  field('landowner', 'Landowner', 'text', { required: false, example: 'Amos Pell' }),
  field('landowner_email', 'Landowner’s mail address', 'email', {
    required: false,
    example: 'amos.pell@brightwaterland.example',
  }),
  field('first_season', 'First season', 'yes/no', { example: 'no' }),
  field('colonies', 'Colonies', 'number', { example: '180' }),
  field('frames', 'Frames of bees', 'number', { example: '8' }),
  field('price_per_colony', 'Price per colony', 'money', { currency: 'USD', example: '195.00' }),
  field('discount', 'Discount', 'percent', { required: false, example: '5' }),
  field('payment_days', 'Payment days', 'number', { example: '30' }),
  field('gross', 'Rent before discount', 'money', {
    currency: 'USD',
    computed: 'round half up(colonies * price_per_colony, 2)',
  }),
  field('discount_amount', 'Discount amount', 'money', {
    currency: 'USD',
    computed: 'round half up(gross * (if discount = null then 0 else discount) / 100, 2)',
  }),
  field('total', 'Total', 'money', { currency: 'USD', computed: 'gross - discount_amount' }),
  field('deposit', 'Deposit', 'money', { currency: 'USD', computed: 'round half up(total * 0.25, 2)' }),
  field('density', 'Colonies per acre', 'number', { computed: 'round half up(colonies / acres, 1)' }),
  field('delivery.start', 'Delivery from', 'date', { computed: 'bloom.start - duration("P9D")' }),
  field('delivery.end', 'Delivery by', 'date', { computed: 'bloom.start - duration("P2D")' }),
  field('removal', 'Removal by', 'date', { computed: 'add business days(bloom.end, 5)' }),
  field('payment_due', 'Payment due', 'date', { computed: 'bloom.start + duration("P1D") * payment_days' }),
]

const w = new Writer()

const document: TemplateContent['document'] = {
  type: 'doc',
  content: [
    w.heading(1, 'Season pollination agreement'),
    w.paragraph(
      'between **Larkmere Pollination**, keeper of bees, 2 Apiary Lane, Larkmere, Oregon (the _keeper_), and **{{grower.name}}**, {{grower.legal_form}}, {{grower.address}}, represented by {{grower.contact}} (the _grower_), for the season {{season}}.',
    ),
    w.heading(2, 'Colonies and place'),
    w.clause(
      '**Subject.** The keeper places honey bee colonies in the grower’s orchard for the pollination of {{crop}} on {{acres}} acres in {{orchard.county}} County, {{orchard.state}} (the _orchard_), for the bloom of the season {{season}}.',
    ),
    w.clause(
      '**Number and strength.** The keeper delivers {{colonies | whole}} colonies, which is {{density}} to the acre.',
      w.clause(
        'Each colony has a laying queen and, on the average of the colonies delivered, at least {{frames | whole}} frames covered with bees at delivery.',
      ),
      w.clause(
        'The grower may have the strength inspected within five days of delivery, in the presence of the keeper, by opening one colony in ten chosen at random. Frames are counted at an air temperature of at least 55 degrees Fahrenheit.',
      ),
      w.clause(
        'Where the average falls short, the rent is lowered in proportion. Where it falls short by more than a quarter, the grower may instead ask for further colonies within four days.',
      ),
    ),
    w.clause(
      '**Delivery window.** The keeper delivers between {{delivery.start}} and {{delivery.end}}, counted back from the first day of bloom that the grower has named, {{bloom.start | medium}}.',
      w.clause(
        'The grower tells the keeper at once when bloom is expected earlier or later. The window then moves with it, by up to seven days, at no charge.',
      ),
      w.clause(
        'Colonies are moved at night or in the early morning. The grower names a person who can be reached on the telephone in these hours.',
      ),
    ),
    w.clause(
      '**Placing.** The colonies stand in groups on ground that the grower has prepared. The grower provides',
      w.bullets(
        'a stand for each group that is level, dry and above the reach of irrigation;',
        'a track to each stand that a loaded truck can use in wet weather, and room to turn;',
        'clean water within a quarter of a mile of each stand, free of treatment residues;',
        'a map of the orchard with the stands marked, no later than ten days before {{delivery.start | day and month}}.',
      ),
    ),
    w.clause(
      '**Removal.** The keeper removes the colonies by {{removal}}, five working days after the last day of bloom, {{bloom.end | medium}}. The grower asks for an earlier removal with two days’ notice.',
    ),
    w.clause(
      '**Record of delivery.** At delivery the keeper leaves a record with the day and hour, the stands, the number of colonies at each and the number of the load.',
      w.clause(
        'The grower checks the number within two days and says in writing where it differs. After that the record counts as right, unless the difference could not be seen.',
      ),
      w.clause(
        'The same holds for colonies that are moved from one stand to another while they are in the orchard.',
      ),
      w.clause('Each hive carries the keeper’s brand. A hive without it is not the keeper’s.'),
    ),
    w.clause(
      '**Replacement.** A colony that is found dead, queenless or without flight within the first week is replaced by the keeper within three days, at no charge.',
      w.clause(
        'After the first week the keeper replaces such colonies where spare ones are at hand, at half the rent.',
      ),
      w.clause('No replacement is owed for colonies harmed by what this agreement forbids the grower to do.'),
    ),
    w.heading(2, 'Care of the bees'),
    w.clause(
      '**Water and forage.** The grower keeps the water places filled as long as colonies stand in the orchard. Ground cover in flower between the rows is left standing or is mown before delivery, not during the stay.',
      w.clause(
        'Where frost protection by sprinklers is used, the stands lie outside the reach of the spray. The grower tells the keeper on the evening before, so that entrances can be turned away.',
      ),
      w.clause(
        'The keeper feeds the colonies where weather keeps them from flying for more than three days together. Feed is part of the rent.',
      ),
    ),
    w.clause(
      '**Treatments.** While the colonies stand in the orchard, the grower applies nothing that its label calls harmful to bees, and nothing at all on open bloom by day.',
      w.clause(
        'The grower tells the keeper of any treatment within two miles that the grower knows of, at least 48 hours before it begins.',
      ),
      w.clause(
        'Where colonies have to be moved for a treatment, the grower bears the cost of the move out and back, for each colony, at the keeper’s price list in force.',
      ),
      w.clause(
        'Colonies lost or weakened by a treatment that this clause forbids are made good at the replacement value of the price list.',
      ),
    ),
    w.when(
      'organic',
      w.clause(
        '**Organic handling.** The orchard is certified organic. The keeper uses on these colonies, from thirty days before delivery until removal, only means that the certificate allows, and hands over a written record of them at delivery.',
        w.clause('Feed given in the orchard is organic sugar or the keeper’s own honey.'),
      ),
    ),
    w.when(
      'orchard.state != "Oregon"',
      w.clause(
        '**Movement between states.** The orchard lies in {{orchard.state}}, and the colonies come from Oregon. The keeper obtains the certificates of inspection that both states ask for and carries copies with every load.',
        w.clause(
          'Where an authority holds a load through no fault of the keeper, the delivery window is extended by the time lost.',
        ),
      ),
    ),
    w.clause(
      '**Access.** The keeper and the keeper’s helpers may enter the orchard at any hour to look after the colonies. The keeper shuts gates, keeps to the tracks and leaves nothing behind.',
      w.clause(
        'The grower keeps cattle, machines and the public away from the colonies by a distance of at least thirty feet.',
      ),
      w.clause('Nobody but the keeper opens, moves or feeds a colony, except to save it from fire or flood.'),
    ),
    w.when(
      'land.leased',
      w.clause(
        '**Landowner’s consent.** The orchard stands on leased land that belongs to {{landowner}} (the _landowner_). The landowner signs this agreement as well, and by that consents to the placing of colonies and to the keeper’s access until {{removal}}.',
        w.clause(
          'Where the lease ends before {{removal}}, the grower tells the keeper at least thirty days ahead, and the colonies may stay until then under the terms of this agreement.',
        ),
        w.clause(
          'The colonies remain the keeper’s property whatever the lease says about things brought onto the land.',
        ),
      ),
    ),
    w.heading(2, 'Rent and payment'),
    w.clause(
      '**Rent.** The rent is {{price_per_colony}} for each colony and season, for {{colonies | whole}} colonies {{gross}}, less a discount of {{discount_amount}}, in total **{{total}}**.',
      w.clause(
        'The rent covers delivery, one placing, removal and the keeper’s regular visits. Further moves, night delivery asked for by the grower and inspections beyond the first are charged at the price list.',
      ),
      w.clause(
        'The rent is owed for colonies delivered. Colonies that the grower orders and then refuses at delivery are charged in full, unless they fall short of the strength agreed.',
      ),
    ),
    w.when(
      'first_season',
      w.clause(
        '**Deposit in the first season.** As this is the grower’s first season with the keeper, a deposit of {{deposit}}, a quarter of the total, is due when this agreement is signed. It is set off against the rent.',
        w.clause(
          'The keeper may hold back delivery until the deposit has been received. It is paid back in full where the keeper does not deliver.',
        ),
      ),
    ),
    w.clause(
      '**Payment.** The rent is due on {{payment_due}}, {{payment_days | whole}} days after the first day of bloom. Sums overdue bear interest at one percent a month.',
      w.clause('The grower may set off only claims that the keeper has accepted or a court has upheld.'),
    ),
    w.heading(2, 'When things go wrong'),
    w.clause(
      '**Weather and bloom.** The keeper answers for the colonies, not for the weather, the bloom or the crop. Cold, rain or frost in bloom do not lower the rent.',
    ),
    w.clause(
      '**Loss and damage.** Each party makes good the damage that it causes by carelessness. The keeper carries liability insurance for the colonies of at least {{total}} for each event, and shows the policy when asked.',
      w.clause('Neither party answers for lost profit, save for intent.'),
      w.clause(
        'Theft of colonies or damage done to them on the orchard by third parties is reported to the other party and to the sheriff within a day of being noticed.',
      ),
    ),
    w.clause(
      '**Failure to deliver.** Where the keeper sees that fewer colonies can be delivered than agreed, the keeper says so at once and no later than seven days before {{delivery.start | day and month}}.',
      w.clause(
        'The grower may then rent elsewhere what is missing, and the keeper bears the reasonable difference in price, up to a fifth of the rent for the colonies missing.',
      ),
      w.clause(
        'Disease in a colony that the law orders to be reported frees the keeper from delivering that colony.',
      ),
    ),
    w.clause(
      '**Events beyond control.** Neither party answers for a failure that comes from flood, fire, an order of an authority, the closing of a road or another event that could be neither foreseen nor avoided.',
      w.clause(
        'The party concerned tells the other within a day, says how long the event is likely to last, and takes up its duties again as soon as it is over.',
      ),
      w.clause(
        'Where such an event lasts through more than half of the bloom, either party may end this agreement. Rent is then owed for the days on which the colonies stood in the orchard, in proportion to the days of bloom.',
      ),
    ),
    w.clause(
      '**Ending early.** Either party may end this agreement where the other breaks a main duty and does not mend it within five days of being told in writing.',
      w.clause(
        'The keeper may remove the colonies at once where their health is in danger and the grower does not act the same day.',
      ),
      w.clause(
        'Where the grower ends the agreement before delivery without such a reason, a quarter of the rent is owed, and half of it where less than thirty days are left to the first day of the delivery window.',
      ),
    ),
    w.heading(2, 'Working together'),
    w.clause(
      '**People.** Each party names one person who decides on its behalf while the colonies are in the orchard, and a second one for days on which the first cannot be reached.',
      w.clause(
        'The keeper’s field manager visits the orchard at least twice during bloom and leaves a note of each visit.',
      ),
      w.clause(
        'The grower’s people are told where the stands are before work in these rows begins, and of what to do when somebody is stung.',
      ),
    ),
    w.clause(
      '**What is kept private.** Prices, maps of the orchard and counts of strength are shared with nobody outside, except with advisers, insurers and authorities that may ask for them.',
      w.clause('The keeper may name the grower as a customer unless the grower objects.'),
      w.clause(
        'Photographs of the stands may be used by the party that took them as long as they show neither persons nor the name of the orchard.',
      ),
    ),
    w.clause(
      '**Neighbours.** The grower has told the owners of adjoining fields that colonies will stand in the orchard, from when and until when. The keeper sets up a sign with a telephone number at each track.',
      w.clause(
        'Complaints of neighbours about the colonies are passed on to the keeper the same day and are answered by the keeper.',
      ),
    ),
    w.clause(
      '**Transfer.** Neither party passes its rights or duties on without the other’s consent. Where the orchard is sold or let during the season, the grower sees to it that the buyer or tenant takes over this agreement.',
      w.clause(
        'The keeper may have single tasks done by other keepers of bees and answers for them as for its own people.',
      ),
    ),
    w.heading(2, 'Closing terms'),
    w.clause(
      '**Term.** This agreement begins when both parties have signed and ends when the colonies have been removed and the rent is paid. It does not renew itself.',
    ),
    w.clause(
      '**Changes.** Changes are made in writing and signed by both parties. A change of the delivery window may be agreed by mail.',
    ),
    w.clause(
      '**Notices.** Notices to the grower go to {{grower.contact}} at {{grower.email}}, notices to the keeper to desk@larkmere.example. They count as received on the next working day.',
    ),
    w.clause(
      '**Law.** The law of the State of Oregon applies. The parties first try for thirty days to settle a dispute between them before either goes to court.',
    ),
    w.clause(
      '**Whole agreement.** This document is the whole agreement for the season {{season}}. Where one term is void, the others stand.',
    ),
    w.signatures('grower', 'keeper', 'landowner'),
  ],
}

/** The demo's main template. Figures of beekeeping are plausible and invented. */
export const seasonAgreement: TemplateContent = {
  title: 'Season pollination agreement',
  language: 'en-US',
  outline,
  roles: [
    {
      key: 'grower',
      label: 'Grower',
      shape: 'circle',
      order: 1,
      fill: { rule: 'record', name: 'grower.contact', email: 'grower.email', title: 'grower.name' },
    },
    {
      key: 'keeper',
      label: 'Larkmere',
      shape: 'square',
      order: 2,
      fill: {
        rule: 'standing person',
        name: 'Tobias Renn',
        email: 'tobias.renn@larkmere.example',
        title: 'Managing director',
      },
    },
    {
      key: 'landowner',
      label: 'Landowner',
      shape: 'diamond',
      order: 1,
      condition: 'land.leased',
      fill: { rule: 'record', name: 'landowner', email: 'landowner_email', title: null },
    },
  ],
  initialsOnEveryPage: ['grower', 'keeper'],
  document,
  sending: {
    agreementName: 'Pollination agreement, {{grower.name}}, {{season}}',
    fileName: '{{number}} {{grower.name}}',
    subject: 'Your pollination agreement for {{season}}',
    message:
      'The pollination agreement for {{grower.name}} and the season {{season}} is ready to sign. It covers {{colonies}} colonies, with delivery from {{delivery.start}}.',
    signByDays: 14,
  },
}
