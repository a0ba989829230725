"""What the help says: how the usual things are done, and what words mean. Keys come from the list of commands."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Topic:
    """How one thing is done, step by step; ``also`` are other words by which it is looked for.

    A command in brackets stands for its key, which the browser's list of commands knows.
    """

    title: str
    steps: tuple[str, ...]
    also: str = ""


TOPICS = (
    Topic("Let a picture ride a path", (
        "Bring a picture in: drop it on the stage, or press [upload].",
        "Draw a path: press [tool-pen], click for corners, drag for curves, Enter ends it. Or take a figure: press [tool-figure].",
        "Drag the layer from the shelf onto the path's tile, or the tile onto the layer; or hold it over the path on the stage.",
        "[play] plays it. The card says when it starts, how long it lasts, and how often it goes round.",
    ), "attach motion follow image animate"),
    Topic("Place a layer here now, and there later", (
        "Choose the layer and turn on Pin ([pin]).",
        "Go to a time, and drag the layer where it is to be then.",
        "Go to another time, and drag it again: a path is made through both, and a peg stands at each.",
        "[pin] again, or Done, ends it.",
    ), "keyframe position tween"),
    Topic("Make it face where it goes", (
        "Choose the rider; in the card under Ride, Facing: Along.",
        "A picture that looks another way is turned by Turn by, once for all.",
        "Upright keeps it from standing on its head; Settles lets it come round softly.",
        "Ahead looks in front, Target at a layer or a point, By node at angles you type at nodes.",
    ), "orient rotate auto direction align"),
    Topic("Many of one thing along a path", (
        "Choose the rider; in its card, beside its name, press More like it.",
        "Under Ride, Copies: say how many, and how they are spread: evenly, by px, on the nodes, or at places you type.",
        "Each can be smaller, turned, fainter, later and of another hue than the one before it; By chance lets them differ.",
        "Stand there: the others stand along the path and show the way, and the layer rides by.",
        "As layers makes a layer of each, which then goes its own way.",
    ), "copies duplicate repeat swarm row clone instances array stagger train outlines ghosts positions"),
    Topic("One path, and then another", (
        "Choose the rider; in its card under Pace, Then: the path that comes next, or a new one from where it ends.",
        "Beside it: how long it rests before. Meanwhile it may turn by so much, and become so large.",
        "It rides a path that is made of both. Shape one of them, and the ride follows; drag a node of the whole, and its path is shaped.",
        "In the card of that path: which way each is gone along, how often round, in which order; end to end puts each where the last one ends.",
    ), "chain sequence path after path moves combine join continue route legs next"),
    Topic("One after the other", (
        "Choose the ride that comes later; in its card under Pace, Begins: after, and the one that it follows.",
        "With begins together; As it passes a node when the other one comes by there. Later by says how much.",
        "From then on it begins so much later, whatever is done to the other: its start, its length, its path.",
        "Dragged in the strip, it follows so much later or earlier.",
    ), "sequence order after with previous chain stagger cue timing dependency delay"),
    Topic("Let it shiver, throb, hop", (
        "Choose the layer and go to the time; in its card under Look and place, Accent: what it does here.",
        "It is on top of what it does anyway. Say when: at a time, before, during or after its ride, at a peg, or whenever it is at a node; how long, how often, how strong.",
        "Choose several layers first and all of them do it.",
        "With letters or copies that come later each, so does the accent.",
    ), "accent shake wiggle pulse blink bounce spin wobble jitter emphasis attention"),
    Topic("Link a value to another layer's", (
        "Choose the layer; in its card under Look and place, Link: the value that is to follow.",
        "Say whom it follows and what of it: speed, heading, how far it has travelled, place, size, any number.",
        "Or press the dropper, choose the other layer, and click the value: in its card, or among the figures of its ride.",
        "From, to is the range of that; It is says what this value is at both ends.",
        "Later lets it come later, lag lets it trail behind softly. Beyond: it goes on past the ends.",
        "The one that is followed names its followers under Leads. Nobody can follow who follows it.",
    ), "link follow expression driver rig bind connect value depends speed heading reactive"),
    Topic("Use a path from somewhere else", (
        "Choose the rider; in its card under Look and place, Begins: on its path. Press it: own place.",
        "It stays where it is, and is dragged as a whole from then on; the path says where it goes from there.",
        "So several layers go the same way from places of their own. Shape the path, and all of them follow.",
        "Press it again, and the ride is on its path.",
    ), "relative offset own position same path elsewhere reuse absolute"),
    Topic("Tint a layer, mirror it on the ground", (
        "Choose the layer; in its card under Look and place, Tint: colours over all that it shows; + adds one.",
        "Of what rides a path they lie along it, from its start to its end; darkness only darkens it as they are dark.",
        "Takes: a picture under it, and it has the colours of that where it passes over it.",
        "Ground puts a reflection or a shadow below it. Floor is where the ground is, px from the top.",
        "Fade is how far above the ground it is gone; High and lean shape it. Groups have one, too.",
    ), "tint colour gradient hue recolour reflection mirror shadow floor water ground"),
    Topic("Into depth: tilt, swing, a camera", (
        "Choose a layer or a group; in its card under Look and place, Depth: how far behind the picture it is. Tilt leans its top away, Swing its right edge.",
        "Tilt a group, and what rides in it rides into the picture. To viewer keeps a face to the front, wherever it goes.",
        "Between keys each angle goes its own way; Turns: the short way goes by the one rotation that is shortest.",
        "By depth, in the card of the group or of the scene, draws what is farther away first; else the order of the list holds.",
        "+ beside Layers adds a camera: what its place lies on is seen in the middle. Key it, let it ride, or let it look at a layer (Facing: Target).",
        "A rider that looks at something can turn its face there, in depth: With its: face.",
    ), "depth perspective three dimensions z tilt swing rotate camera parallax billboard zoom"),
    Topic("A film for each row of a table", (
        "Choose nothing, and name on the card what is filled in: the words of a text, a picture, a colour, the course of a path.",
        "A series of it opens a page: type rows as CSV there, or bring a file; the columns are called as the fields are.",
        "Look at them shows each row as a picture, or says by row what is wrong; Render makes a film of each.",
    ), "series batch csv rows template fields variables data spreadsheet versions"),
    Topic("A second view: from above, from the side", (
        "[second] opens it beside the stage; Above and Side draw the scene as it lies in space, with the picture by its edge.",
        "Nodes, handles and layers are dragged there as on the stage: what was not to be seen from the front goes into depth.",
        "The pen draws there too, figures are drawn and texts and shapes placed, in the plane that Draws at says; a drawing goes on from one view to the other.",
        "A movement that is recorded there lies in that plane too; with Pin on, a layer that is dragged is placed there at that time.",
        "The dashed line is the plane in which the stage draws: drag it, or type its depth.",
        "All shows the whole scene with what the stage shows of it: drag there to look elsewhere.",
    ), "top plan side elevation overview map two views layout plane draw depth node handle"),
    Topic("Light on layers", (
        "+ beside Layers adds a light before the picture; dragged by its mark, keyed or riding it goes anywhere.",
        "Layers are as bright as they face it. Else says how bright it is where it does not reach, Reach how far that is.",
        "A cone below 360° shines one way: tilt and swing turn it. Soft is its edge.",
        "In the card of a layer: whether it is lit, and how much of it it throws back.",
    ), "light lamp shade shading shine gloss spot moon sun dark"),
    Topic("Set a text on a path", (
        "Let the text ride the path; in its card under Ride, Text rides: Letters.",
        "It bends with the path as it goes; At rest sets it on the middle of the path for good.",
        "Words and Lines ride as pieces; Each s later lets them come one after the other.",
        "Facing Fixed leaves the letters upright; Reversed reads from the other end. The anchor says which line of it lies on the path.",
        "Too long for its path: squeeze, or say what is seen past its end.",
    ), "text on path curve circle letters characters typography warp stagger"),
    Topic("Leave bubbles, dust or sparks behind", (
        "Choose the layer that moves; in its card under Look and place, Wake: leaves bubbles.",
        "That is a layer of its own, which goes with the other: dragged on the stage, it leaves from another spot; give it any look.",
        "Any other layer is left as well: let it go with the one that moves (Goes with), and press of its like.",
        "Its card says how many, how fast, which way, how long. What comes round leaves a wake that does.",
        "Also like: other layers that they look like, by chance. Colours, sizes and opacities are those of a life, from birth on.",
    ), "wake particles emitter trail bubbles dust sparks snow smoke sparkle stars"),
    Topic("A line that draws itself", (
        "Choose the rider; in its card under Look, Wake: leaves a line, as it goes, or a tail.",
        "Or choose a line that is there; in its card, Drawn by: the rider.",
        "It is drawn behind the rider or ahead of it, all the way, or as far back as you say: then it is its tail.",
        "Ends wide makes it thinner at an end, and a tail with less ink fades.",
        "Without a rider it is drawn From, to; with keys of these it draws itself.",
    ), "write-on trim stroke tail trace reveal handwriting route"),
    Topic("Slow here, fast there", (
        "Choose the rider and go to the time; under Pace, press Slow here or Fast here.",
        "The graph below shows its speed over time: drag the peg there, up is faster, sideways is earlier or later.",
        "Its two sides have knobs of their own; what is earlier and later stays where it is.",
        "Or draw the speed by hand: the scribble under the clock.",
    ), "ease easing velocity accelerate pace timing"),
    Topic("Rest at a place", (
        "Put a peg in where it is to rest: in the card, Put a peg here.",
        "Choose the peg in the strip, and type how long under Rest here. What is later comes later.",
    ), "pause hold stop wait"),
    Topic("Record with the hand, and smooth it", (
        "Choose a layer, press [tool-record], set how slow the scene is to run meanwhile.",
        "Press on the stage, draw, let go: the layer rides what you drew, in your timing.",
        "In the card, Tolerance says how few nodes it has; the suggested one takes your tremor out.",
        "A loop joins its ends. The raw movement is kept: it can be smoothed again at any time.",
    ), "sketch freehand draw take motion capture trajectory"),
    Topic("Close the loop", (
        "The pill at the top says whether the end meets the beginning. Press it: it names who does not, and why.",
        "It shows the last frame, the first and what jumps; Flick the two shows them by turns on the stage.",
        "It offers what mends it: point at a way to see it, press it to take it. Make it loop takes the best of each.",
        "On a closed path a whole number of laps comes round by itself; on an open one send it to and fro.",
    ), "seam seamless repeat cycle infinite gif"),
    Topic("Text and shapes", (
        "Press [tool-text] for a text or [tool-shape] for a shape, then click or drag where it is to be.",
        "A double click on a text writes in it where it stands; Esc ends that. Size, font and colours are in the card under Look.",
        "A font of your own: drop its file on the stage. Other scripts take their letters from fonts that have them.",
        "A shape's outline becomes a path: right-click it, or press Make it a path.",
    ), "title type font rectangle circle star letters"),
    Topic("Change something over time", (
        "Go to a time and press the ring beside a number in the card: that is a key.",
        "Go on, change the number: with Pin on, or on another key, that is a second key.",
        "Keys are dragged in the strip; under Keys the graph shows their curve.",
    ), "keyframe opacity scale rotate property animate"),
    Topic("Take a drawing's path", (
        "Drop an SVG on the stage, and say that it is to become a path. Several shapes can be taken at once.",
        "Or paste path data, or a whole SVG, with Ctrl V.",
    ), "import svg vector bezier outline"),
    Topic("Several together", (
        "Shift-click layers in the list, and group them: [group]. A group moves, turns and rides as one.",
        "Double-click goes into a group, Esc out of it. What rides inside goes on riding.",
    ), "group parent multiple select"),
    Topic("One layer goes with another", (
        "Choose the layer; in the card under Look, Goes with: the other one. It stays where it is, and moves along from now on.",
        "Turns with it and Grows with it take more of it; Sit on it puts it on the other's anchor.",
        "A helper is never in the picture: add one from the shelf's plus, and let others go with it or look at it.",
    ), "parent link follow attach null pin child"),
    Topic("Fill with several colours", (
        "Choose a shape, a text or a line; in the card under Look, Filled: linear or radial.",
        "On the stage drag the ends of the line, and the dots beside it for the stops. The ring beside a stop puts a key in.",
        "A colour is picked from those of the scene, typed, or read off the stage with Read.",
    ), "gradient ramp stops colour eyedropper sample"),
    Topic("Use footage", (
        "Drop a film, an animated picture or numbered pictures on the stage, or press [upload]. It is a layer, and may ride.",
        "Its bar in the strip slides; its ends trim it. In the card under Look are its speed, below 0 backwards, and how long it lasts.",
        "At its end it stays, plays again, goes back the way it came, or is gone. With Fade its end runs into its beginning.",
    ), "video film clip movie gif sequence speed reverse loop trim cut"),
    Topic("Follow something in footage", (
        "Choose the footage, go to where the spot is plain to see, press Follow a spot in its card, and drag a box round it.",
        "It is looked for in every frame, both ways. Where it is lost, go on a little and drag the box round it again.",
        "As a path it is a take, to be ridden; as a helper it has keys of x and y, and others go with it.",
    ), "track motion tracking stabilise point stick"),
    Topic("Show a scene in a scene", (
        "In the shelf's plus, Another scene: it becomes a layer, and what is changed there shows here. Double-click goes into it.",
        "In the card under Look are its speed and when it begins; slowed down it goes on smoothly.",
        "A group becomes a scene of its own with As a scene in its card, and a scene a group with [ungroup].",
    ), "nest embed compose retime slow fast reuse"),
    Topic("Go back to an earlier state", (
        "Press [history]: every edit is listed. Point at one, and the scene is on the stage as it was then.",
        "Press it for what can be done: go back to it, compare it, give it a name, or make a scene of its own of it.",
        "Compare puts it left of a line on the stage, to be dragged; right of it is the scene as it is, or what is pointed at.",
    ), "history undo version restore revert compare"),
    Topic("Make the video", (
        "Press Render and choose a format: MP4 for screens, GIF or WebP for messages, MOV to work on it further.",
        "Size, frames, speed, loops, motion blur and what lies behind are chosen there; keep them under a name for the next time.",
        "Go on working: what you change meanwhile is not in it. Renders, on the page of projects, has all that are made.",
    ), "export mp4 webm gif mov prores movie save output transparent alpha blur preset queue"),
)  # fmt: skip

WORDS = (
    ("Path, node, handle", "A line that layers ride along; its points; what bends it at a point."),
    ("Ride", "The link between a layer and a path: where it starts, how fast, which way it faces."),
    ("Peg", "A time at which a rider is at a place. Between two pegs its speed is shaped."),
    ("Key", "A time at which a property of a layer has a value."),
    ("Pace", "How the way between two pegs is shared out over its time."),
    ("Facing", "Which way a rider turns while it goes."),
    ("Lap, shift", "Once along the whole path; the share of the path by which a rider is ahead."),
    ("Tie", "A mark on the path for each frame: far apart is fast, and its colour says how fast."),
    ("Seam", "Where the end of the scene meets its beginning."),
    ("Take", "A movement recorded with the hand, kept raw, and what was made of it."),
    ("Anchor", "The spot of a layer that sits on its path, and that it turns and grows about."),
    ("Helper, guide", "What is seen while working, and never in the picture."),
    ("Mask", "Paths inside of which a layer or a group is seen."),
    ("Pin", "On, dragging a layer places it at this time."),
)
"""What people meet on the screen, in a sentence each."""
